import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { KINDS, number } from '../../parts/words.ts';
import type { Column } from './columns.ts';
import type { Selection } from './useSelection.ts';

interface Props {
  site: number;
  index: number;
  row: Schema['PageRow'] | undefined;
  columns: Column[];
  selection: Selection;
}

export function PageTableRow({ site, index, row, columns, selection }: Props) {
  if (!row) {
    return (
      <tr aria-rowindex={index + 2} className="h-8 border-b border-base-300/60">
        <td colSpan={columns.length + 1} className="px-2 text-secondary">
          …
        </td>
      </tr>
    );
  }
  const isSelected = selection.rows.has(row.number);
  return (
    <tr
      aria-rowindex={index + 2}
      className={`h-8 border-b border-base-300/60 ${isSelected ? 'bg-depth-0 text-depth-ink-0' : 'hover:bg-base-200'}`}
    >
      <td className="pl-3">
        <input
          type="checkbox"
          className="checkbox checkbox-xs block"
          aria-label={`Select ${row.title}`}
          checked={isSelected}
          onChange={() => selection.toggle(index, row)}
          onClick={(event) => {
            if (event.shiftKey) {
              event.preventDefault();
              selection.extendTo(index);
            }
          }}
        />
      </td>
      {columns.map((column) => (
        <Cell key={column.key} column={column} site={site} index={index} row={row} />
      ))}
    </tr>
  );
}

function Cell({ column, site, index, row }: { column: Column; site: number; index: number; row: Schema['PageRow'] }) {
  switch (column.key) {
    case 'title':
      return (
        <td className="truncate px-2">
          <Link
            className="font-semibold text-primary hover:underline"
            data-index={index}
            to={`/${site}/pages/${row.number}`}
            title={row.title}
          >
            {row.title}
          </Link>
          {row.is_fresh && <span className="ml-2 text-xs text-secondary">new</span>}
        </td>
      );
    case 'address':
      return (
        <td className="truncate px-2" title={row.address}>
          {row.path}
        </td>
      );
    case 'kind':
      return <td className="truncate px-2">{KINDS[row.kind]}</td>;
    case 'category':
      return <td className="truncate px-2">{row.category ?? ''}</td>;
    case 'depth':
      return (
        <td className="px-2">
          <Depth depth={row.depth} />
        </td>
      );
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
      return <Figure>{fitFigure(row[column.key])}</Figure>;
    case 'attention':
      return <Figure>{row.attention < 0.5 ? '' : number(Math.round(row.attention))}</Figure>;
    default:
      return <Figure>{number(row[column.key])}</Figure>;
  }
}

/** A figure, right-aligned; doubly underlined when some of it is planned: in the tray, or handed over. */
function Figure({ children, mark = false, planned = 0 }: { children: ReactNode; mark?: boolean; planned?: number }) {
  return (
    <td className={`px-2 text-right ${mark ? 'font-semibold text-accent' : ''}`}>
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
    </td>
  );
}

/** A fit, or nothing where there is no opening. */
function fitFigure(value: number | null | undefined): string {
  return value === null || value === undefined ? '' : String(Math.round(value));
}
