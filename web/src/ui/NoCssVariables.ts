/** Stands in the build for how the component library makes themes of CSS variables: ours are none. */
export default function createThemeWithVars(): never {
  throw new Error('The themes have no CSS variables: leave `cssVariables` out.');
}
