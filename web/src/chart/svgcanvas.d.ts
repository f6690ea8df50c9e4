/** What is used of a canvas context that writes SVG. */
declare module 'svgcanvas' {
  export class Context {
    constructor(width: number, height: number);
    getSerializedSvg(): string;
  }
}
