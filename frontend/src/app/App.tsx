import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy, Suspense, useEffect, type ReactNode } from 'react';
import { createBrowserRouter, RouterProvider } from 'react-router';

import { Shelf } from '../shelf/Shelf';
import { useEvents } from './jobs';
import { laterPage } from './laterPage';
import { useLight } from './light';
import { useProfile } from './profile';
import { themeFor } from './theme';
import { writeAs } from './units';

// The chart's libraries are the larger half of the program; the shelf does not wait for them, but fetches them once it
// is drawn, so that the first figure does not wait either.
const figurePage = () => import('../figure/FigurePage');
const FigurePage = lazy(figurePage);
const ScannerPage = lazy(() => import('../shelf/ScannerPage'));
const LineUpPage = lazy(() => import('../shelf/LineUpPage'));
const BitsPage = lazy(() => import('../shelf/BitsPage'));
const PlansPage = lazy(() => import('../plans/PlansPage'));
const StockPage = lazy(() => import('../stock/StockPage'));
const ReleasesPage = lazy(() => import('../releases/ReleasesPage'));
const BenchPage = lazy(() => import('../bench/BenchPage'));
const EditionsPage = lazy(() => import('../editions/EditionsPage'));
const VersionsPage = lazy(() => import('../versions/VersionsPage'));

const client = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 60_000, refetchOnWindowFocus: false } },
});

// A page that was asked for before a change, and answers after it, is older than what is shown.
client.setQueryDefaults(['figure'], { structuralSharing: laterPage });

const unrolled = (sheet: ReactNode) => (
  <Suspense fallback={<p className="empty">Unrolling the sheet …</p>}>{sheet}</Suspense>
);

const router = createBrowserRouter([
  { path: '/', element: <Shelf /> },
  { path: '/scanner', element: unrolled(<ScannerPage />) },
  { path: '/line-up', element: unrolled(<LineUpPage />) },
  { path: '/bits', element: unrolled(<BitsPage />) },
  { path: '/plates-and-days', element: unrolled(<PlansPage />) },
  { path: '/stock', element: unrolled(<StockPage />) },
  { path: '/releases', element: unrolled(<ReleasesPage />) },
  { path: '/bench', element: unrolled(<BenchPage />) },
  { path: '/figures/:number/editions', element: unrolled(<EditionsPage />) },
  { path: '/figures/:number/versions', element: unrolled(<VersionsPage />) },
  { path: '/figures/:number/:station?', element: unrolled(<FigurePage />) },
  { path: '*', element: <p className="empty">There is no such sheet. The shelf is at the start page.</p> },
]);

function Listening() {
  useEvents();
  const profile = useProfile();
  writeAs(profile.currency ?? '', profile.dates);
  useEffect(() => {
    const later = window.setTimeout(() => void figurePage(), 500);
    return () => window.clearTimeout(later);
  }, []);
  // What is written in sums and dates is drawn anew when they are written otherwise.
  return <RouterProvider key={`${profile.currency} ${profile.dates}`} router={router} />;
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
