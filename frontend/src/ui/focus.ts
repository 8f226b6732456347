/** Where the keyboard goes on when what it was on is gone. */

/** What comes next on a page, in the order of the page: the first of these takes the keyboard. */
const NEXT = '[data-next]:not(:disabled)';

const lost = (): boolean => !document.activeElement || document.activeElement === document.body;

/** Give the keyboard to what comes next. */
export function focusNext(root: ParentNode = document): void {
  root.querySelector<HTMLElement>(NEXT)?.focus();
}

/**
 * As long as it is there, the keyboard is never without a place: when what has it is taken off the page, what comes
 * next gets it; when a button is disabled while it works, it gets it back unless something comes next.
 */
export function keepsFocus(root: HTMLElement): { destroy: () => void } {
  let last: HTMLElement | null = null;
  /** The panel that it was in, which is the place to go on as long as it is open. */
  let panel: HTMLElement | null = null;
  const remember = (event: FocusEvent): void => {
    last = event.target as HTMLElement;
    panel = last.closest<HTMLElement>('[role=dialog]');
  };
  function check(): void {
    if (!lost() || !last) return;
    if (last.isConnected) {
      if (!last.matches(':disabled') && last.dataset.waits) {
        delete last.dataset.waits;
        const next = root.querySelector<HTMLElement>(NEXT);
        (next ?? last).focus();
      } else if (last.matches(':disabled')) last.dataset.waits = 'yes';
      return;
    }
    last = null;
    // What takes its place may still be on its way.
    const own = panel;
    requestAnimationFrame(() => {
      if (!lost()) return;
      // Behind a dialog that went, the panel that it was opened from.
      const open = own?.isConnected
        ? own
        : [...document.querySelectorAll<HTMLElement>('[role=dialog][data-state=open]')].at(-1);
      if (open) open.focus();
      else focusNext(root);
    });
  }
  const observer = new MutationObserver(check);
  document.addEventListener('focusin', remember);
  observer.observe(document.body, { childList: true, subtree: true, attributeFilter: ['disabled'] });
  return {
    destroy: () => {
      document.removeEventListener('focusin', remember);
      observer.disconnect();
    },
  };
}
