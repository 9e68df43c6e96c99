import '@fontsource-variable/atkinson-hyperlegible-next/wght.css';
import '@fontsource-variable/newsreader/wght-italic.css';
import '@fontsource-variable/newsreader/wght.css';
import './app/sheet.css';
import './chart/chart.css';
import './figure/acts.css';
import './figure/figure.css';
import './figure/note.css';
import './versions/versions.css';
import './shelf/shelf.css';
import './shelf/sheets.css';
import './app/narrow.css';

import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';

import { App } from './app/App';
import { beginLight } from './app/light';

beginLight();

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
}
