import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, memo, type ReactNode, useEffect, useRef } from 'react';
import { Empty, Failed, Loading } from '../parts/states.tsx';
import { type Column, type Order, orderAfter } from './column.ts';
import { type RowSource, type Rows, useRows } from './rows.ts';
import type { Selection } from './useSelection.ts';

const ROW_HEIGHT = 32;

interface Props<Row, Key extends string> {
  source: RowSource<Row>;
  /** Those that are shown. */
  columns: readonly Column<Key>[];
  order: Order<Key>;
  setOrder: (order: Order<Key>) => void;
  selection: Selection<Row>;
  /** What a row is known by, to be selected. */
  keyOf: (row: Row) => number;
  /** What a row is called, for whoever hears its checkbox. */
  nameOf: (row: Row) => string;
  /** What stands in a cell. One cell of a row has a link or a button with `data-index={index}`, where the keys go. */
  cell: (column: Column<Key>, row: Row, index: number) => ReactNode;
  /** Copies what is selected. */
  copy: () => void;
  onTotal: (total: number | undefined) => void;
  /** While nothing is there yet, and where there is nothing. */
  loading: string;
  nothing: ReactNode;
  /** How narrow it may become before it is scrolled sideways. */
  leastWidth?: string;
}

/**
 * A long table: only the rows in view are in the document. Its headings sort; rows are selected with the mouse, with Shift
 * and with the keys (arrows, Space, Ctrl+A, Ctrl+C).
 */
export function DataTable<Row, Key extends string>(props: Props<Row, Key>) {
  const { source, columns, order, setOrder, selection, keyOf, nameOf, cell, copy, onTotal } = props;
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
  const list = useRows(source, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  const total = list.total;
  known.current = total ?? 0;
  virtualizer.setOptions({ ...virtualizer.options, count: known.current });
  useEffect(() => onTotal(total), [total, onTotal]);
  if (list.error && total === undefined) {
    return <Failed error={list.error} retry={list.retry} />;
  }
  if (total === undefined) {
    return <Loading what={props.loading} />;
  }
  if (total === 0) {
    return <Empty title="Nothing to show">{props.nothing}</Empty>;
  }
  const widths = columns.reduce((sum, column) => sum + column.width, 0);
  const shown = virtualizer.getVirtualItems();
  const above = (shown[0]?.start ?? ROW_HEIGHT) - ROW_HEIGHT;
  const below = virtualizer.getTotalSize() - ((shown.at(-1)?.end ?? ROW_HEIGHT) - ROW_HEIGHT);
  const press = (event: KeyboardEvent<HTMLElement>) => pressKey(event, { list, selection, copy, total });
  return (
    // The focus moves from row to row with the arrow keys.
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys act on the links inside
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto" onKeyDown={press}>
      <table className="w-full table-fixed" style={{ minWidth: props.leastWidth ?? '60rem' }} aria-rowcount={total + 1}>
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
              <Heading key={column.key} column={column} order={order} setOrder={setOrder} />
            ))}
          </tr>
        </thead>
        <tbody>
          <Gap height={above} />
          {shown.map((item) => {
            const row = list.row(item.index);
            return row ? (
              <DataRow
                key={item.key}
                index={item.index}
                row={row}
                name={nameOf(row)}
                isSelected={selection.rows.has(keyOf(row))}
                columns={columns}
                cell={cell as CellOf<unknown>}
                toggle={selection.toggle as Selection<unknown>['toggle']}
                extendTo={selection.extendTo}
              />
            ) : (
              <tr key={item.key} aria-rowindex={item.index + 2} className="h-8 border-b border-base-300/60">
                <td colSpan={columns.length + 1} className="px-2 text-secondary">
                  …
                </td>
              </tr>
            );
          })}
          <Gap height={below} />
        </tbody>
      </table>
    </div>
  );
}

function Gap({ height }: { height: number }) {
  return height > 0 ? <tr style={{ height }} /> : null;
}

interface HeadingProps<Key extends string> {
  column: Column<Key>;
  order: Order<Key>;
  setOrder: (order: Order<Key>) => void;
}

/** A heading ends where its figures end: the arrow stands on the other side. */
function Heading<Key extends string>({ column, order, setOrder }: HeadingProps<Key>) {
  const isSorted = order.sort === column.key;
  const arrow = isSorted && (
    <span aria-hidden="true" className={`text-primary ${column.isNumber ? 'mr-0.5' : 'ml-0.5'}`}>
      {order.descending ? '↓' : '↑'}
    </span>
  );
  return (
    <th
      scope="col"
      aria-sort={isSorted ? (order.descending ? 'descending' : 'ascending') : 'none'}
      className={`h-8 border-b border-base-300 px-2 ${column.isNumber ? 'text-right' : 'text-left'}`}
    >
      <button
        type="button"
        title={column.meaning}
        className="whitespace-nowrap font-semibold hover:underline"
        onClick={() => setOrder(orderAfter(order, column))}
      >
        {column.isNumber && arrow}
        {column.name}
        {!column.isNumber && arrow}
      </button>
    </th>
  );
}

type CellOf<Row> = (column: Column<string>, row: Row, index: number) => ReactNode;

interface RowProps {
  index: number;
  row: unknown;
  name: string;
  isSelected: boolean;
  columns: readonly Column<string>[];
  cell: CellOf<unknown>;
  toggle: Selection<unknown>['toggle'];
  extendTo: (index: number) => void;
}

/** A row is drawn anew when it changes, not with each step of the wheel. */
const DataRow = memo(function DataRow({ index, row, name, isSelected, columns, cell, toggle, extendTo }: RowProps) {
  return (
    <tr
      aria-rowindex={index + 2}
      className={`h-8 border-b border-base-300/60 ${isSelected ? 'bg-depth-0 text-depth-ink-0' : 'hover:bg-base-200'}`}
    >
      <td className="pl-3">
        <input
          type="checkbox"
          className="checkbox checkbox-xs block"
          aria-label={`Select ${name}`}
          checked={isSelected}
          onChange={() => toggle(index, row)}
          onClick={(event) => {
            if (event.shiftKey) {
              event.preventDefault();
              extendTo(index);
            }
          }}
        />
      </td>
      {columns.map((column) => (
        <td key={column.key} className={`truncate px-2 ${column.isNumber ? 'text-right' : ''}`}>
          {cell(column, row, index)}
        </td>
      ))}
    </tr>
  );
});

interface Around<Row> {
  list: Rows<Row>;
  selection: Selection<Row>;
  copy: () => void;
  total: number;
}

function pressKey<Row>(event: KeyboardEvent<HTMLElement>, { list, selection, copy, total }: Around<Row>) {
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
  const next = event.currentTarget.querySelector<HTMLElement>(`[data-index="${index + step}"]`);
  if (step === 0 || !next) {
    return;
  }
  event.preventDefault();
  next.focus();
  if (event.shiftKey) {
    selection.extendTo(index + step);
  }
}
