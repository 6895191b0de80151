import { isRouteErrorResponse, Link, Navigate, type RouteObject, useRouteError } from 'react-router';
import { RenderPage } from './render/render-page.tsx';
import { OpenDemo } from './start/open-demo.tsx';
import { StartPage } from './start/start-page.tsx';
import { WorkspacePage } from './workspace/workspace-page.tsx';

function RouteProblem() {
  const error = useRouteError();
  const sentence = isRouteErrorResponse(error) ? 'There is no such page.' : error instanceof Error ? error.message : String(error);
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

export const routes: RouteObject[] = [
  { path: '/', element: <StartPage />, errorElement: <RouteProblem /> },
  { path: '/demo', element: <OpenDemo />, errorElement: <RouteProblem /> },
  { path: '/demo/:name', element: <OpenDemo />, errorElement: <RouteProblem /> },
  { path: '/render', element: <RenderPage />, errorElement: <RouteProblem /> },
  { path: '/document/:id', element: <Navigate to="build-up" replace />, errorElement: <RouteProblem /> },
  { path: '/document/:id/:stage', element: <WorkspacePage />, errorElement: <RouteProblem /> },
];
