import express, { type ErrorRequestHandler, type Express } from 'express';
import helmet from 'helmet';
import { type ReviewOptions, reviewRoutes } from './review/routes.ts';

/** The static application at `root`, isolated so that the browser grants shared memory. Unknown paths are the application's own routes. With reviews, if it is told where they are. */
export function createApp(root: string, reviews: ReviewOptions | null = null): Express {
  const app = express();
  app.disable('x-powered-by');
  // Whatever the environment says: no stack traces in answers.
  app.set('env', 'production');
  app.use(
    helmet({
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginResourcePolicy: { policy: 'same-origin' },
      strictTransportSecurity: false,
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          'default-src': ["'self'"],
          'script-src': ["'self'", "'wasm-unsafe-eval'"],
          'style-src': ["'self'", "'unsafe-inline'"],
          'img-src': ["'self'", 'data:', 'blob:'],
          'font-src': ["'self'"],
          'worker-src': ["'self'", 'blob:'],
          'connect-src': ["'self'", 'blob:'],
          'object-src': ["'none'"],
          'base-uri': ["'none'"],
          'frame-ancestors': ["'none'"],
        },
      },
    }),
  );
  // Nobody finds a review by searching.
  app.use(['/review', '/api'], (_request, response, next) => {
    response.setHeader('X-Robots-Tag', 'noindex, nofollow');
    next();
  });
  if (reviews) app.use('/api/reviews', reviewRoutes(reviews));
  app.use('/api', (_request, response) => void response.status(404).json({ problem: 'There is no review server here.' }));
  app.use(express.static(root, { index: false, redirect: false, setHeaders: (response, path) => response.setHeader('Cache-Control', /[\\/]assets[\\/]/.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache') }));
  app.get('/{*path}', (request, response) => {
    if (/\.[a-z0-9]+$/i.test(request.path)) return void response.status(404).type('text').send('Not found');
    response.setHeader('Cache-Control', 'no-cache');
    response.sendFile('index.html', { root });
  });
  app.use(((error, _request, response, next) => {
    if (response.headersSent) return next(error);
    // An address that cannot be read is the asker's fault; everything else is said without what stands in the way here.
    const status = error instanceof URIError || (error as { status?: unknown }).status === 400 ? 400 : 500;
    response.status(status).type('text').send(status === 400 ? 'This address cannot be read.' : 'Something went wrong on the server. Reload the page.');
  }) satisfies ErrorRequestHandler);
  return app;
}
