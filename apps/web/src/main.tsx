import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { Toaster } from 'sonner';
import { ClipsPage } from './pages/clips-page';
import { EditorPage } from './pages/editor-page';
import { ProjectsPage } from './pages/projects-page';
import { followTheme, usePreferences } from './state/preferences';
import './state/uploads';
import { ErrorNote } from './ui/error-note';
import './theme.css';

followTheme();

const broken = (
  <div className="flex h-full">
    <ErrorNote message="Something went wrong on this page. Your work is saved; reload to go on.">
      <a className="btn btn-sm" href="/">
        All projects
      </a>
    </ErrorNote>
  </div>
);

const router = createBrowserRouter([
  { path: '/', element: <ProjectsPage />, errorElement: broken },
  { path: '/projects/:projectId', element: <ClipsPage />, errorElement: broken },
  { path: '/projects/:projectId/clips/:clipId', element: <EditorPage />, errorElement: broken },
  {
    path: '*',
    element: (
      <div className="flex h-full">
        <ErrorNote message="There is nothing at this address.">
          <a className="btn btn-sm" href="/">
            All projects
          </a>
        </ErrorNote>
      </div>
    ),
  },
]);

/** What the program says in passing, in the page's theme. */
function Messages() {
  const theme = usePreferences((s) => s.theme);
  return (
    <Toaster
      position="bottom-center"
      theme={theme === 'dusk' ? 'dark' : 'light'}
      richColors
      style={{ fontFamily: 'inherit' }}
    />
  );
}

createRoot(document.getElementById('root') as HTMLElement).render(
  <QueryClientProvider client={new QueryClient()}>
    <RouterProvider router={router} />
    <Messages />
  </QueryClientProvider>,
);
