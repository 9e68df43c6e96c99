import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy, Suspense, useEffect } from 'react';
import { createBrowserRouter, RouterProvider } from 'react-router';

import { Shelf } from '../shelf/Shelf';
import { useEvents } from './jobs';
import { useLight } from './light';
import { themeFor } from './theme';

// The chart's libraries are the larger half of the program; the shelf does not wait for them, but fetches them once it
// is drawn, so that the first figure does not wait either.
const figurePage = () => import('../figure/FigurePage');
const FigurePage = lazy(figurePage);
const VersionsPage = lazy(() => import('../versions/VersionsPage'));

const client = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 60_000, refetchOnWindowFocus: false } },
});

const router = createBrowserRouter([
  { path: '/', element: <Shelf /> },
  {
    path: '/figures/:number/versions',
    element: (
      <Suspense fallback={<p className="empty">Unrolling the sheet …</p>}>
        <VersionsPage />
      </Suspense>
    ),
  },
  {
    path: '/figures/:number/:station?',
    element: (
      <Suspense fallback={<p className="empty">Unrolling the sheet …</p>}>
        <FigurePage />
      </Suspense>
    ),
  },
  { path: '*', element: <p className="empty">There is no such sheet. The shelf is at the start page.</p> },
]);

function Listening() {
  useEvents();
  useEffect(() => {
    const later = window.setTimeout(() => void figurePage(), 500);
    return () => window.clearTimeout(later);
  }, []);
  return <RouterProvider router={router} />;
}

const THEMES = { day: themeFor('day'), night: themeFor('night') };

/** The whole program. */
export function App() {
  const light = useLight();
  return (
    <ThemeProvider theme={THEMES[light]}>
      <QueryClientProvider client={client}>
        <Listening />
      </QueryClientProvider>
    </ThemeProvider>
  );
}
