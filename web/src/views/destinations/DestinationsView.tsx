import { useCallback, useMemo, useState } from 'react';
import { answer, api } from '../../api/client.ts';
import { LinkPlaces } from '../../links/LinkPlaces.tsx';
import { FilterChip, RemovableChip } from '../../table/Chips.tsx';
import { copyTable } from '../../table/clipboard.ts';
import { DataTable } from '../../table/DataTable.tsx';
import type { RowSource } from '../../table/rows.ts';
import { TextFilter } from '../../table/TextFilter.tsx';
import { useSelection } from '../../table/useSelection.ts';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import {
  beginningOf,
  columnsFor,
  counted,
  type DestinationColumn,
  type DestinationRow,
  isOfHosts,
  nameOf,
  queryOf,
  useWish,
  type Wish,
} from './wish.ts';

/** A row with the place that it has in the list, by which it is known. */
interface Row extends DestinationRow {
  at: number;
}

/** Where the site sends its readers: hosts, their addresses, and the links that lead there. */
export function DestinationsView() {
  const site = useSite();
  const [wish, setWish] = useWish();
  const [total, setTotal] = useState<number>();
  const [opened, setOpened] = useState<Row>();
  const source = destinationRows(site, wish);
  const ofHosts = isOfHosts(wish);
  const words = useMemo(
    () => ({
      keyOf: (row: Row) => row.at,
      counted: (rows: number) => (ofHosts ? `${rows} hosts` : `${rows} addresses`),
    }),
    [ofHosts],
  );
  const selection = useSelection(source, words);
  const selected = [...selection.rows.values()];
  const shown = selected.length > 0 ? selected : opened ? [opened] : [];
  // biome-ignore lint/correctness/useExhaustiveDependencies: columns hang on what is listed alone
  const columns = useMemo(() => columnsFor(wish), [ofHosts]);
  const cell = useCallback(
    (column: { key: DestinationColumn }, row: Row, index: number) => (
      <DestinationCell column={column.key} row={row} index={index} open={() => setOpened(row)} />
    ),
    [],
  );
  const go = (change: Partial<Wish>) => {
    setOpened(undefined);
    selection.clear();
    setWish(change);
  };
  const names = shown.map((row) => row.name);
  const [first] = shown;
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
        <TextFilter
          text={wish.text}
          set={(text) => setWish({ text })}
          label="Filter by any part of an address"
          placeholder="Any part of an address"
        />
        <FilterChip isOn={ofHosts} press={() => go({ host: null, addresses: false })}>
          hosts
        </FilterChip>
        <FilterChip isOn={wish.addresses && wish.host === null} press={() => go({ host: null, addresses: true })}>
          single addresses
        </FilterChip>
        {wish.host && (
          <RemovableChip remove={() => go({ host: null })}>only {nameOf({ name: wish.host })}</RemovableChip>
        )}
      </div>
      <div className="flex min-h-0 flex-1 border-t border-base-300 max-lg:flex-col max-lg:overflow-y-auto">
        <div className="flex min-h-[20rem] min-w-0 flex-1 flex-col">
          <p className="figures flex min-h-8 flex-wrap items-center gap-x-3 px-4 py-1 text-secondary">
            <span role="status">{total !== undefined && `${counted(total, wish)} shown`}</span>
            {selected.length > 0 && (
              <>
                <span className="font-semibold text-base-content">{counted(selected.length, wish)} selected</span>
                <button type="button" className="text-primary underline" onClick={selection.clear}>
                  Select none
                </button>
              </>
            )}
            {ofHosts && shown.length === 1 && first && (
              <button
                type="button"
                className="text-primary underline"
                onClick={() => go({ host: first.name, text: '' })}
              >
                Open the addresses of {nameOf(first)}
              </button>
            )}
          </p>
          <DataTable
            source={source}
            columns={columns}
            order={wish}
            setOrder={setWish}
            selection={selection}
            keyOf={words.keyOf}
            nameOf={nameOf}
            cell={cell}
            copy={() =>
              void copyTable(
                [columns.map((column) => column.name), ...selected.map((row) => cellsOf(columns, row))],
                counted(selected.length, wish),
              )
            }
            onTotal={setTotal}
            loading="Gathering the links that lead away"
            nothing={wish.text ? `No address holds “${wish.text}”.` : 'The site leads nowhere else.'}
            leastWidth="36rem"
          />
        </div>
        {first && (
          <LinkPlaces
            key={names.join()}
            site={site}
            asked={ofHosts ? { kind: 'hosts', hosts: names } : { kind: 'addresses', addresses: names }}
            title={shown.length > 1 ? counted(shown.length, wish) : nameOf(first)}
            beginning={
              ofHosts
                ? names.length === 1 && !first.name.endsWith(':')
                  ? `https://${first.name}/`
                  : ''
                : beginningOf(names)
            }
            showsManner
            close={() => {
              setOpened(undefined);
              selection.clear();
            }}
          />
        )}
      </div>
    </div>
  );
}

function destinationRows(site: number, wish: Wish): RowSource<Row> {
  const query = queryOf(wish);
  return {
    queryKey: ['site', site, 'destinations', query],
    fetch: async (offset, limit) => {
      const params = { path: { site }, query: { ...query, offset, limit } };
      const { total, rows, texts_to_come } = await answer(api.GET('/api/sites/{site}/destinations', { params }));
      return { total, rows: rows.map((row, at) => ({ ...row, at: offset + at })), isComing: Boolean(texts_to_come) };
    },
  };
}

function cellsOf(columns: readonly { key: DestinationColumn }[], row: Row): string[] {
  return columns.map(({ key }) => String(row[key]));
}

function DestinationCell(props: { column: DestinationColumn; row: Row; index: number; open: () => void }) {
  const { column, row, index, open } = props;
  if (column === 'name') {
    return (
      <button
        type="button"
        data-index={index}
        className="block max-w-full truncate text-left font-semibold text-primary hover:underline"
        title={row.name}
        onClick={open}
      >
        {nameOf(row)}
      </button>
    );
  }
  return row[column].toLocaleString('en');
}
