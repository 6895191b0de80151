import { keepSetting, setting } from './storage/database.ts';

export type Theme = 'light' | 'dusk';

export const currentTheme = (): Theme => (document.documentElement.dataset.theme === 'dusk' ? 'dusk' : 'light');

export async function loadTheme(): Promise<void> {
  document.documentElement.dataset.theme = await setting<Theme>('theme', 'light');
}

export function toggleTheme(): void {
  const next: Theme = currentTheme() === 'dusk' ? 'light' : 'dusk';
  document.documentElement.dataset.theme = next;
  keepSetting('theme', next);
  // The field behind the picture is drawn, not styled.
  window.dispatchEvent(new Event('themechange'));
}
