import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './app/app.js';
import { applySavedTheme } from './app/theme.js';
import { loadAgainAfterUpdates } from './app/updates.js';
import './main.css';

applySavedTheme();
loadAgainAfterUpdates();
const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
}
