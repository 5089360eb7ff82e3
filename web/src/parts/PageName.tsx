import { Link } from 'react-router';
import type { Schema } from '../api/client.ts';

/** A page's title as a way to its Desk. */
export function PageName({ site, page }: { site: number; page: Schema['PageRef'] }) {
  return (
    <Link className="font-semibold text-primary hover:underline" to={`/${site}/pages/${page.number}`} title={page.path}>
      {page.title}
    </Link>
  );
}
