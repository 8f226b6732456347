/**
 * Do something again and again while the page is in sight.
 * @param pause in milliseconds.
 * @returns what ends it; made for `onMount` and `$effect`.
 */
export function whileSeen(act: () => unknown, pause: number): () => void {
  const timer = setInterval(() => {
    if (document.visibilityState === 'visible') void act();
  }, pause);
  return () => {
    clearInterval(timer);
  };
}
