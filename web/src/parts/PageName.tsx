import { Link } from 'react-router';
import type { Schema } from '../api/client.ts';

/** A page's title as a way to its Desk; plain words when the page is gone. */
export function PageName({ site, page }: { site: number; page: Schema['PageRef'] }) {
  if (page.is_gone) {
    return (
      <span className="font-semibold" title={page.path}>
        <bdi>{page.title}</bdi> <span className="font-normal text-secondary">(no longer on the site)</span>
      </span>
    );
  }
  return (
    <Link
      className="font-semibold text-primary hover:underline"
      to={`/${site}/pages/${page.number}`}
      title={page.path}
      dir="auto"
    >
      {page.title}
    </Link>
  );
}
