import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { currentTheme, toggleTheme } from '../theme.ts';
import { IconButton } from './button.tsx';

export function ThemeButton() {
  const [theme, setTheme] = useState(currentTheme());
  return (
    <IconButton
      label={theme === 'dusk' ? 'Light panels' : 'Dark panels'}
      onClick={() => {
        toggleTheme();
        setTheme(currentTheme());
      }}
    >
      {theme === 'dusk' ? <Sun size={15} aria-hidden /> : <Moon size={15} aria-hidden />}
    </IconButton>
  );
}
