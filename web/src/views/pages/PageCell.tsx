import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { Depth } from '../../parts/Depth.tsx';
import { KINDS, number } from '../../parts/words.ts';
import type { PageColumn } from './columns.ts';
import type { PageRow } from './pageRows.ts';

interface Props {
  column: PageColumn;
  site: number;
  index: number;
  row: PageRow;
}

/** What stands in a cell of Pages. */
export function PageCell({ column, site, index, row }: Props) {
  switch (column.key) {
    case 'title':
      return (
        <>
          <Link
            className="font-semibold text-primary hover:underline"
            data-index={index}
            to={`/${site}/pages/${row.number}`}
            title={row.title}
          >
            {row.title}
          </Link>
          {row.is_fresh && <span className="ml-2 text-xs text-secondary">new</span>}
        </>
      );
    case 'address':
      return <span title={row.address}>{row.path}</span>;
    case 'kind':
      return KINDS[row.kind];
    case 'category':
      return row.category ?? '';
    case 'depth':
      return <Depth depth={row.depth} />;
    case 'links_in':
      return (
        <Figure mark={row.links_in === 0 && !row.is_entry} planned={row.planned_in}>
          {number(row.links_in)}
        </Figure>
      );
    case 'content_links_in':
      return <Figure planned={row.planned_in}>{number(row.content_links_in)}</Figure>;
    case 'links_out':
      return <Figure planned={row.planned_out}>{number(row.links_out)}</Figure>;
    case 'broken':
      return <Figure mark={row.broken > 0}>{number(row.broken)}</Figure>;
    case 'best_in':
    case 'best_out':
      return fitFigure(row[column.key]);
    case 'equity':
      return typeof row.equity === 'number' ? row.equity.toFixed(2) : '…';
    case 'attention':
      return row.attention < 0.5 ? '' : number(Math.round(row.attention));
    default:
      return number(row[column.key]);
  }
}

/** A figure; doubly underlined when some of it is planned: in the tray, or handed over. */
function Figure({ children, mark = false, planned = 0 }: { children: ReactNode; mark?: boolean; planned?: number }) {
  return (
    <span className={mark ? 'font-semibold text-accent' : ''}>
      {planned > 0 ? (
        <span
          className="font-semibold text-primary underline decoration-double underline-offset-2"
          title={`${planned} of them planned`}
        >
          {children}
          <span className="sr-only">, {planned} of them planned</span>
        </span>
      ) : (
        children
      )}
    </span>
  );
}

/** A fit, or nothing where there is no opening. */
function fitFigure(value: number | null | undefined): string {
  return value === null || value === undefined ? '' : String(Math.round(value));
}
