import { Link } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { KINDS, number } from '../../parts/words.ts';
import { COLUMNS } from './columns.ts';

interface Props {
  site: number;
  index: number;
  row: Schema['PageRow'] | undefined;
}

export function PageTableRow({ site, index, row }: Props) {
  const place = { 'aria-rowindex': index + 2, className: 'h-8 border-b border-base-300/60 hover:bg-base-200' };
  if (!row) {
    return (
      <tr {...place}>
        <td colSpan={COLUMNS.length} className="px-2 text-secondary">
          …
        </td>
      </tr>
    );
  }
  return (
    <tr {...place}>
      <td className="truncate pr-2 pl-4">
        <Link
          className="font-semibold text-primary hover:underline"
          data-index={index}
          to={`/${site}/pages/${row.number}`}
          title={row.title}
        >
          {row.title}
        </Link>
      </td>
      <td className="truncate px-2" title={row.address}>
        {row.path}
      </td>
      <td className="truncate px-2">{KINDS[row.kind]}</td>
      <td className="truncate px-2">{row.category ?? ''}</td>
      <Figure>{number(row.words)}</Figure>
      <Figure mark={row.links_in === 0 && !row.is_entry} planned={row.planned_in}>
        {number(row.links_in)}
      </Figure>
      <Figure planned={row.planned_out}>{number(row.links_out)}</Figure>
      <Figure>{number(row.links_away)}</Figure>
      <td className="px-2">
        <Depth depth={row.depth} />
      </td>
    </tr>
  );
}

/** A figure, right-aligned; doubly underlined when some of it is still in the tray. */
function Figure({ children, mark = false, planned = 0 }: { children: string; mark?: boolean; planned?: number }) {
  return (
    <td className={`px-2 text-right ${mark ? 'font-semibold text-accent' : ''}`}>
      {planned > 0 ? (
        <span
          className="font-semibold text-primary underline decoration-double underline-offset-2"
          title={`${planned} of them in the tray`}
        >
          {children}
          <span className="sr-only">, {planned} of them in the tray</span>
        </span>
      ) : (
        children
      )}
    </td>
  );
}
