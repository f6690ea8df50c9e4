/** A length rounded up to three binary digits: what is asked for by it changes seldom while a window grows. */
export function coarse(us: number): number {
  const step = 2 ** Math.max(Math.floor(Math.log2(us)) - 2, 0);
  return Math.ceil(us / step) * step;
}
