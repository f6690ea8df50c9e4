/** Stands in the build for what the component library draws under a pressed button: nothing here ripples. */
export default function NoRipple(): null {
  return null;
}
