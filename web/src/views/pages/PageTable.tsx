import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type ReactNode, useEffect, useRef } from 'react';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import type { Column } from './columns.ts';
import { PageTableRow } from './PageTableRow.tsx';
import { usePageList } from './usePageList.ts';
import type { Selection } from './useSelection.ts';
import { shownColumns, type Wish } from './wish.ts';

const ROW_HEIGHT = 32;

interface Props {
  site: number;
  wish: Wish;
  setWish: (change: Partial<Wish>) => void;
  onTotal: (total: number | undefined) => void;
  selection: Selection;
  copy: () => void;
  nothing: ReactNode;
}

/** Rows of pages; only those in view are in the document. */
export function PageTable({ site, wish, setWish, onTotal, selection, copy, nothing }: Props) {
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
  const columns = shownColumns(wish);
  const widths = columns.reduce((sum, column) => sum + column.width, 0);
  const shown = virtualizer.getVirtualItems();
  const above = (shown[0]?.start ?? ROW_HEIGHT) - ROW_HEIGHT;
  const below = virtualizer.getTotalSize() - ((shown.at(-1)?.end ?? ROW_HEIGHT) - ROW_HEIGHT);
  const press = (event: KeyboardEvent<HTMLElement>) => pressKey(event, { list, selection, copy, total });
  return (
    // The focus moves from title to title with the arrow keys.
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys act on the links inside
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto" onKeyDown={press}>
      <table className="w-full min-w-[60rem] table-fixed" aria-rowcount={total + 1}>
        <colgroup>
          <col style={{ width: '2.25rem' }} />
          {columns.map((column) => (
            <col key={column.key} style={{ width: `${(100 * column.width) / widths}%` }} />
          ))}
        </colgroup>
        <thead className="sticky top-0 z-10 bg-base-200">
          <tr aria-rowindex={1}>
            <th scope="col" className="border-b border-base-300">
              <span className="sr-only">Selected</span>
            </th>
            {columns.map((column) => (
              <Heading key={column.key} column={column} wish={wish} setWish={setWish} />
            ))}
          </tr>
        </thead>
        <tbody>
          <Gap height={above} />
          {shown.map((item) => (
            <PageTableRow
              key={item.key}
              site={site}
              index={item.index}
              row={list.row(item.index)}
              columns={columns}
              selection={selection}
            />
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
      className={`h-8 border-b border-base-300 px-2 ${column.isNumber ? 'text-right' : 'text-left'}`}
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

interface Around {
  list: ReturnType<typeof usePageList>;
  selection: Selection;
  copy: () => void;
  total: number;
}

function pressKey(event: KeyboardEvent<HTMLElement>, { list, selection, copy, total }: Around) {
  const key = event.key.toLowerCase();
  if ((event.ctrlKey || event.metaKey) && key === 'a') {
    event.preventDefault();
    selection.all(total);
    return;
  }
  if ((event.ctrlKey || event.metaKey) && key === 'c' && selection.rows.size > 0) {
    event.preventDefault();
    copy();
    return;
  }
  const at = document.activeElement?.getAttribute('data-index');
  if (!at) {
    return;
  }
  const index = Number(at);
  if (key === ' ') {
    const row = list.row(index);
    if (row) {
      event.preventDefault();
      selection.toggle(index, row);
    }
    return;
  }
  const step = key === 'arrowdown' ? 1 : key === 'arrowup' ? -1 : 0;
  const next = event.currentTarget.querySelector<HTMLElement>(`a[data-index="${index + step}"]`);
  if (step === 0 || !next) {
    return;
  }
  event.preventDefault();
  next.focus();
  if (event.shiftKey) {
    selection.extendTo(index + step);
  }
}
