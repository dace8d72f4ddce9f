const KEY = 'theme';
export type Theme = 'day' | 'dim';

/** A choice of this screen in this room, so it is kept by the browser. */
export function savedTheme(): Theme {
  return localStorage.getItem(KEY) === 'dim' ? 'dim' : 'day';
}

export function applyTheme(theme: Theme): void {
  document.documentElement.dataset.theme = theme;
  localStorage.setItem(KEY, theme);
}

export function applySavedTheme(): void {
  applyTheme(savedTheme());
}
