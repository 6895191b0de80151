import './styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { Tooltip } from 'radix-ui';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { Toaster } from 'sonner';
import { Notices } from './notices.tsx';
import { Hints } from './ui/hints.tsx';
import { routes } from './routes.tsx';
import { keepOffline } from './offline/keep-offline.ts';
import { prepareStores } from './storage/database.ts';
import { sweepFiles } from './storage/files.ts';
import { loadTheme } from './theme.ts';

const queries = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, networkMode: 'always' }, mutations: { networkMode: 'always' } } });

// Where nothing can be stored, the pages say so.
await prepareStores().catch(() => undefined);
await loadTheme();
void sweepFiles().catch(() => undefined);
createRoot(document.getElementById('root') as HTMLElement).render(
  <QueryClientProvider client={queries}>
    <Tooltip.Provider delayDuration={500}>
      <RouterProvider router={createBrowserRouter(routes)} />
      <Notices />
      <Hints />
      <Toaster position="bottom-center" closeButton toastOptions={{ unstyled: true, classNames: { toast: 'notice', actionButton: 'notice-action', closeButton: 'notice-close' } }} />
    </Tooltip.Provider>
  </QueryClientProvider>,
);
// Who only looks at a review keeps nothing of the program, which may be much on a telephone.
if (!window.location.pathname.startsWith('/review/')) void keepOffline();
