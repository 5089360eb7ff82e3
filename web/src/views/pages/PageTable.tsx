import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type ReactNode, useEffect, useRef } from 'react';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import { COLUMNS, type Column } from './columns.ts';
import { PageTableRow } from './PageTableRow.tsx';
import { usePageList, type Wish } from './usePageList.ts';

const ROW_HEIGHT = 32;

interface Props {
  site: number;
  wish: Wish;
  setWish: (change: Partial<Wish>) => void;
  onTotal: (total: number | undefined) => void;
  nothing: ReactNode;
}

/** Rows of pages; only those in view are in the document. */
export function PageTable({ site, wish, setWish, onTotal, nothing }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const known = useRef(0);
  const virtualizer = useVirtualizer({
    count: known.current,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
    scrollMargin: ROW_HEIGHT,
  });
  const items = virtualizer.getVirtualItems();
  const list = usePageList(site, wish, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  const total = list.total;
  known.current = total ?? 0;
  virtualizer.setOptions({ ...virtualizer.options, count: known.current });
  useEffect(() => onTotal(total), [total, onTotal]);
  if (list.error && total === undefined) {
    return <Failed error={list.error} retry={list.retry} />;
  }
  if (total === undefined) {
    return <Loading what="Gathering the pages" />;
  }
  if (total === 0) {
    return <Empty title="Nothing to show">{nothing}</Empty>;
  }
  const shown = virtualizer.getVirtualItems();
  const above = (shown[0]?.start ?? ROW_HEIGHT) - ROW_HEIGHT;
  const below = virtualizer.getTotalSize() - ((shown.at(-1)?.end ?? ROW_HEIGHT) - ROW_HEIGHT);
  return (
    // The focus moves from title to title with the arrow keys.
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys only move the focus between links
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto" onKeyDown={moveFocus}>
      <table className="w-full min-w-[60rem] table-fixed" aria-rowcount={total + 1}>
        <colgroup>
          {COLUMNS.map((column) => (
            <col key={column.key} style={{ width: column.width }} />
          ))}
        </colgroup>
        <thead className="sticky top-0 z-10 bg-base-200">
          <tr aria-rowindex={1}>
            {COLUMNS.map((column) => (
              <Heading key={column.key} column={column} wish={wish} setWish={setWish} />
            ))}
          </tr>
        </thead>
        <tbody>
          <Gap height={above} />
          {shown.map((item) => (
            <PageTableRow key={item.key} site={site} index={item.index} row={list.row(item.index)} />
          ))}
          <Gap height={below} />
        </tbody>
      </table>
    </div>
  );
}

function Gap({ height }: { height: number }) {
  return height > 0 ? <tr style={{ height }} /> : null;
}

function Heading({ column, wish, setWish }: { column: Column } & Pick<Props, 'wish' | 'setWish'>) {
  const isSorted = wish.sort === column.key;
  const order = wish.descending ? 'descending' : 'ascending';
  // Figures are most telling from the largest down, words from A.
  const descending = isSorted ? !wish.descending : column.isNumber || column.key === 'depth';
  return (
    <th
      scope="col"
      aria-sort={isSorted ? order : 'none'}
      className={`h-8 border-b border-base-300 px-2 first:pl-4 ${column.isNumber ? 'text-right' : 'text-left'}`}
    >
      <button
        type="button"
        title={column.meaning}
        className="whitespace-nowrap font-semibold hover:underline"
        onClick={() => setWish({ sort: column.key, descending })}
      >
        {column.name}
        <span aria-hidden="true" className="ml-0.5 inline-block w-3 text-primary">
          {isSorted ? (wish.descending ? '↓' : '↑') : ''}
        </span>
      </button>
    </th>
  );
}

function moveFocus(event: KeyboardEvent<HTMLElement>) {
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
  const index = document.activeElement?.getAttribute('data-index');
  if (step === 0 || !index) {
    return;
  }
  const next = event.currentTarget.querySelector<HTMLElement>(`[data-index="${Number(index) + step}"]`);
  if (next) {
    event.preventDefault();
    next.focus();
  }
}
