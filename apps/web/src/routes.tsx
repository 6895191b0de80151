import { isRouteErrorResponse, Link, Navigate, type RouteObject, useRouteError } from 'react-router';

function RouteProblem() {
  const error = useRouteError();
  const sentence = isRouteErrorResponse(error) ? 'There is no such page.' : error instanceof TypeError && /import|fetch/i.test(error.message) ? 'A part of the program could not be loaded. Check that the server is reachable, and reload the page.' : error instanceof Error ? error.message : String(error);
  return (
    <main className="grid h-full place-items-center">
      <div className="max-w-lg border border-ink bg-sheet p-4">
        <h1 className="lettering mb-2">This page cannot be shown</h1>
        <p className="mb-3">{sentence}</p>
        <p className="mb-3 text-faint">Documents are saved as one works. Reload the page, or go back to the documents.</p>
        <Link to="/" reloadDocument className="underline">
          All documents
        </Link>
      </div>
    </main>
  );
}

/** Pages are loaded when somebody goes there. */
const pages = {
  start: async () => ({ Component: (await import('./start/start-page.tsx')).StartPage }),
  demo: async () => ({ Component: (await import('./start/open-demo.tsx')).OpenDemo }),
  render: async () => ({ Component: (await import('./render/render-page.tsx')).RenderPage }),
  review: async () => ({ Component: (await import('./review/review-page.tsx')).ReviewPage }),
  workspace: async () => ({ Component: (await import('./workspace/workspace-page.tsx')).WorkspacePage }),
};

/** Nothing is shown while the first page is on its way: it takes a moment. */
const common = { errorElement: <RouteProblem />, hydrateFallbackElement: <main aria-busy="true" aria-label="Loading" /> };

export const routes: RouteObject[] = [
  { path: '/', lazy: pages.start, ...common },
  { path: '/demo', lazy: pages.demo, ...common },
  { path: '/demo/:name', lazy: pages.demo, ...common },
  { path: '/render', lazy: pages.render, ...common },
  { path: '/review/:link', lazy: pages.review, ...common },
  { path: '/document/:id', element: <Navigate to="build-up" replace />, ...common },
  { path: '/document/:id/:stage', lazy: pages.workspace, ...common },
];
