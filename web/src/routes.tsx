import { createBrowserRouter, Navigate } from 'react-router';
import { Frame } from './frame/frame.js';
import { ErrorPage, NotFound } from './frame/error-page.js';
import { queryClient } from './api/query-client.js';
import { mapDocQuery } from './maps/edit/map-doc-query.js';
import { Waiting } from './parts/states.js';
import { StartPage } from './start/start-page.js';

/** Each stop is a chunk of its own, loaded when somebody goes there. */
export const router = createBrowserRouter([
  {
    element: <Frame />,
    errorElement: <ErrorPage />,
    hydrateFallbackElement: <Waiting what="Opening the page…" />,
    children: [
      { path: '/', element: <StartPage /> },
      { path: '/new', lazy: () => import('./new/new-project-page.js').then((m) => ({ Component: m.NewProjectPage })) },
      { path: '/places', lazy: () => import('./places/places-page.js').then((m) => ({ Component: m.PlacesPage })) },
      { path: '/mend', lazy: () => import('./mend/all-projects-page.js').then((m) => ({ Component: m.AllProjectsPage })) },
      { path: '/mend/map', lazy: () => import('./mend/lone-map-page.js').then((m) => ({ Component: m.LoneMapPage })) },
      { path: '/receive', lazy: () => import('./send/receive-page.js').then((m) => ({ Component: m.ReceivePage })) },
      { path: '/journal', lazy: () => import('./journal/journal-page.js').then((m) => ({ Component: m.JournalPage })) },
      { path: '/help', lazy: () => import('./help/help-page.js').then((m) => ({ Component: m.HelpPage })) },
      {
        path: '/p/:key',
        lazy: () => import('./frame/project-frame.js').then((m) => ({ Component: m.ProjectFrame })),
        children: [
          { index: true, element: <Navigate to="overview" replace /> },
          { path: 'overview', lazy: () => import('./overview/overview-page.js').then((m) => ({ Component: m.OverviewPage })) },
          { path: 'folders', lazy: () => import('./folders/folders-page.js').then((m) => ({ Component: m.FoldersPage })) },
          { path: 'sources', lazy: () => import('./sources/sources-page.js').then((m) => ({ Component: m.SourcesPage })) },
          {
            path: 'geodatabases',
            lazy: () => import('./geodatabases/geodatabases-page.js').then((m) => ({ Component: m.GeodatabasesPage })),
          },
          { path: 'maps', lazy: () => import('./maps/maps-page.js').then((m) => ({ Component: m.MapsPage })) },
          {
            path: 'maps/edit',
            // The map is on its way while its page is loaded and drawn.
            loader: ({ params, request }) => {
              const path = new URL(request.url).searchParams.get('map') ?? '';
              if (path !== '') void queryClient.prefetchQuery(mapDocQuery(params.key ?? '', path));
              return null;
            },
            shouldRevalidate: () => false,
            lazy: () => import('./maps/edit/map-editor-page.js').then((m) => ({ Component: m.MapEditorPage })),
          },
          { path: 'mend', lazy: () => import('./mend/mend-page.js').then((m) => ({ Component: m.MendPage })) },
          { path: 'quality', lazy: () => import('./quality/quality-page.js').then((m) => ({ Component: m.QualityPage })) },
          { path: 'send', lazy: () => import('./send/send-page.js').then((m) => ({ Component: m.SendPage })) },
        ],
      },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
