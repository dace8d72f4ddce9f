const LOADED_AGAIN = 'loaded-again';
/** A second miss so soon after is no update: loading again would not end. */
const ONCE_IN_MS = 60_000;

/**
 * After an update of the server the parts of the old page that were not fetched yet are gone: the page is loaded again, by
 * itself and once. What is missing then is said on the screen.
 */
export function loadAgainAfterUpdates(target: Window = window): void {
  target.addEventListener('vite:preloadError', (event) => {
    const before = Number(target.sessionStorage.getItem(LOADED_AGAIN) ?? 0);
    const now = Date.now();
    if (now - before < ONCE_IN_MS) return;
    target.sessionStorage.setItem(LOADED_AGAIN, String(now));
    event.preventDefault();
    target.location.reload();
  });
}
