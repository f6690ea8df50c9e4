/** Paper: what stands in an element of this id is printed, and nothing else of the screen (see the theme). */
const PRINTED = 'printed-sheet';

/** An element for what is printed; nobody sees it. */
export function printedPlace(): HTMLElement {
  const place = document.createElement('div');
  place.id = PRINTED;
  return place;
}

/** Prints such an element; `onDone`: the browser has taken everything, or nobody wants it. */
export function print(place: HTMLElement, onDone?: () => void): void {
  document.body.append(place);
  const end = (): void => {
    place.remove();
    onDone?.();
  };
  window.addEventListener('afterprint', end, { once: true });
  window.print();
}
