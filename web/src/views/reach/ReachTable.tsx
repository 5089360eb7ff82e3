import { useCallback, useMemo, useState } from 'react';
import { Depth } from '../../parts/Depth.tsx';
import type { Order } from '../../table/column.ts';
import { DataTable } from '../../table/DataTable.tsx';
import { useSelection } from '../../table/useSelection.ts';
import { COLUMNS, type ColumnKey, type PageColumn } from '../pages/columns.ts';
import { copyPages } from '../pages/copyPages.ts';
import { PageCell } from '../pages/PageCell.tsx';
import { PAGE_WORDS, type PageRow, pageRows } from '../pages/pageRows.ts';
import { readWish } from '../pages/wish.ts';
import type { ReachWish } from './reachWish.ts';

const SHOWN: ColumnKey[] = ['title', 'category', 'kind', 'links_in', 'links_out', 'equity', 'depth'];

interface Props {
  site: number;
  wish: ReachWish;
  choose: (page: number) => void;
}

/** The pages of the chart as a table. */
export function ReachTable({ site, wish, choose }: Props) {
  const [order, setOrder] = useState<Order<ColumnKey>>({ sort: 'depth', descending: true });
  const bounds =
    wish.zoom === undefined || wish.zoom === null
      ? []
      : [{ column: 'depth' as const, least: wish.zoom, most: wish.zoom }];
  const source = pageRows(site, {
    ...readWish(new URLSearchParams()),
    ...order,
    only: wish.only ?? (wish.zoom === null ? 'unreachable' : null),
    kind: wish.kind,
    category: wish.category,
    bounds,
    columns: SHOWN,
  });
  const selection = useSelection(source, PAGE_WORDS);
  const columns = useMemo(() => COLUMNS.filter((column) => SHOWN.includes(column.key)), []);
  const cell = useCallback(
    (column: PageColumn, row: PageRow, index: number) =>
      column.key === 'title' ? (
        <button
          type="button"
          data-index={index}
          className="max-w-full truncate font-semibold text-primary hover:underline"
          title={row.path}
          onClick={() => choose(row.number)}
        >
          {row.title}
        </button>
      ) : column.key === 'depth' ? (
        <Depth depth={row.depth} />
      ) : (
        <PageCell column={column} site={site} index={index} row={row} />
      ),
    [site, choose],
  );
  const copy = () => void copyPages(columns, [...selection.rows.values()]);
  return (
    <DataTable
      source={source}
      columns={columns}
      order={order}
      setOrder={setOrder}
      selection={selection}
      keyOf={PAGE_WORDS.keyOf}
      nameOf={(row) => row.title}
      cell={cell}
      copy={copy}
      onTotal={() => undefined}
      leastWidth="44rem"
      loading="Gathering the pages"
      nothing="No page passes all these filters. Take one off."
    />
  );
}
