import { Link, useLocation } from 'react-router';
import { useSite } from './useSite.ts';
import { viewAt, viewsOf } from './views.ts';

/** The views of the group, where a view's title stands: the one that is shown is the heading. */
export function ViewTabs() {
  const site = useSite();
  const { pathname } = useLocation();
  const current = viewAt(pathname);
  const views = current?.group ? viewsOf(current.group) : current ? [current] : [];
  return (
    <nav aria-label={current?.group ?? 'View'} className="mr-1 flex items-baseline gap-3">
      {views.map((view) =>
        view === current ? (
          <h1
            key={view.path}
            aria-current="page"
            className="border-b-2 border-primary font-serif text-xl font-semibold"
          >
            {view.name}
          </h1>
        ) : (
          <Link
            key={view.path}
            to={`/${site}/${view.path}`}
            className="font-serif text-xl text-secondary hover:text-base-content hover:underline"
          >
            {view.name}
          </Link>
        ),
      )}
    </nav>
  );
}
