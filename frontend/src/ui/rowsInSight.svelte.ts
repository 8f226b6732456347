/** Which rows of a long table are in sight, where the page around it scrolls. Only those are drawn. */

/** Rows that are drawn beyond both ends. */
const SPARE = 8;

export interface Span {
  first: number;
  last: number;
}

/**
 * The rows that lie in a view.
 * @param past how far the first row lies above the upper end of the view, in pixels
 * @param height the view's, in pixels
 */
export function spanInSight(past: number, height: number, row: number, count: number): Span {
  const first = Math.max(0, Math.min(count, Math.floor(past / row) - SPARE));
  const last = Math.min(count, Math.ceil((past + height) / row) + SPARE);
  return { first, last: Math.max(first, last) };
}

export class RowsInSight {
  past = $state(0);
  height = $state(800);

  /** Follow the scrolling of a view and its size; the returned function stops that. */
  follow(view: HTMLElement, body: HTMLElement): () => void {
    const look = (): void => {
      this.past = view.getBoundingClientRect().top - body.getBoundingClientRect().top;
      this.height = view.clientHeight;
    };
    look();
    view.addEventListener('scroll', look, { passive: true });
    const sizes = new ResizeObserver(look);
    sizes.observe(view);
    return () => {
      view.removeEventListener('scroll', look);
      sizes.disconnect();
    };
  }

  span(row: number, count: number): Span {
    return spanInSight(this.past, this.height, row, count);
  }
}
