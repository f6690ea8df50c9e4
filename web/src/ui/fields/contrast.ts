/** How well a colour is told from its ground (WCAG 2.2, "contrast ratio" and "relative luminance"). */

/** Of what is drawn, beside its ground (1.4.11, level AA). */
export const LEAST_DRAWN = 3;

/** 1 (none) to 21; of two colours as #rrggbb. */
export function contrast(one: string, other: string): number {
  const [light = 0, dark = 0] = [luminance(one), luminance(other)].sort((a, b) => b - a);
  return (light + 0.05) / (dark + 0.05);
}

function luminance(colour: string): number {
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => {
    const part = parseInt(colour.slice(at, at + 2), 16) / 255;
    return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue;
}
