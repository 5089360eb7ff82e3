import { useCallback, useState } from 'react';
import { LinkPlaces } from '../../links/LinkPlaces.tsx';
import { count } from '../../parts/words.ts';
import { FilterChip } from '../../table/Chips.tsx';
import { copyTable } from '../../table/clipboard.ts';
import { DataTable } from '../../table/DataTable.tsx';
import { TextFilter } from '../../table/TextFilter.tsx';
import { useSelection } from '../../table/useSelection.ts';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { FaultPicture } from './FaultPicture.tsx';
import { ANCHOR_WORDS, anchorRows } from './useAnchors.ts';
import {
  type AnchorColumn,
  type AnchorRow,
  COLUMNS,
  FAULTS,
  LENGTHS,
  type Length,
  useWish,
  type Wish,
} from './wish.ts';

/** What the links of the site say. */
export function AnchorsView() {
  const site = useSite();
  const [wish, setWish] = useWish();
  const [total, setTotal] = useState<number>();
  const [opened, setOpened] = useState<AnchorRow>();
  const source = anchorRows(site, wish);
  const selection = useSelection(source, ANCHOR_WORDS);
  const selected = [...selection.rows.values()];
  const shown = selected.length > 0 ? selected : opened ? [opened] : [];
  const cell = useCallback(
    (column: { key: AnchorColumn }, row: AnchorRow, index: number) => (
      <AnchorCell column={column.key} row={row} index={index} open={() => setOpened(row)} />
    ),
    [],
  );
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
        <TextFilter
          text={wish.text}
          set={(text) => setWish({ text })}
          label="Filter texts by their words"
          placeholder="Words of the text"
        />
        {(['one', 'many'] as Length[]).map((length) => (
          <FilterChip
            key={length}
            isOn={wish.length === length}
            press={() => setWish({ length: wish.length === length ? 'any' : length })}
          >
            {LENGTHS[length]}
          </FilterChip>
        ))}
      </div>
      <div className="flex min-h-0 flex-1 border-t border-base-300 max-lg:flex-col max-lg:overflow-y-auto">
        <FaultPicture site={site} fault={wish.fault} set={(fault) => setWish({ fault })} />
        <div className="flex min-h-[20rem] min-w-0 flex-1 flex-col border-base-300 max-lg:border-t lg:border-l">
          <p className="figures flex min-h-8 flex-wrap items-center gap-x-3 px-4 py-1 text-secondary" role="status">
            {total !== undefined && `${count(total, 'text')} shown`}
            {selected.length > 0 && (
              <>
                <span className="font-semibold text-base-content">{count(selected.length, 'text')} selected</span>
                <button type="button" className="text-primary underline" onClick={selection.clear}>
                  Select none
                </button>
              </>
            )}
          </p>
          <DataTable
            source={source}
            columns={COLUMNS}
            order={wish}
            setOrder={setWish}
            selection={selection}
            keyOf={ANCHOR_WORDS.keyOf}
            nameOf={nameOf}
            cell={cell}
            copy={() =>
              void copyTable(
                [COLUMNS.map((column) => column.name), ...selected.map(cellsOf)],
                count(selected.length, 'text'),
              )
            }
            onTotal={setTotal}
            loading="Gathering the texts"
            nothing={<Nothing wish={wish} />}
            leastWidth="36rem"
          />
        </div>
        {shown.length > 0 && (
          <LinkPlaces
            key={shown.map((row) => row.number).join()}
            site={site}
            asked={{ kind: 'texts', keys: shown.map((row) => row.key) }}
            title={shown.length > 1 ? count(shown.length, 'text') : shown[0]?.text || 'Links that say nothing'}
            whys={shown.length > 1 ? [] : (shown[0]?.whys ?? [])}
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

function nameOf(row: AnchorRow): string {
  return row.text || '(nothing)';
}

function cellsOf(row: AnchorRow): string[] {
  return COLUMNS.map(({ key }) =>
    key === 'text' ? row.text : key === 'faults' ? row.whys.join('; ') : String(row[key]),
  );
}

function AnchorCell(props: { column: AnchorColumn; row: AnchorRow; index: number; open: () => void }) {
  const { column, row, index, open } = props;
  switch (column) {
    case 'text':
      return (
        <button
          type="button"
          data-index={index}
          className={`block max-w-full truncate text-left hover:underline ${row.text ? 'font-semibold text-primary' : 'text-secondary'}`}
          title={row.text}
          onClick={open}
        >
          {nameOf(row)}
        </button>
      );
    case 'faults':
      return (
        <span className="text-secondary" title={row.whys.join('\n')}>
          {row.faults[0] && FAULTS[row.faults[0]]}
          {row.faults.length > 1 && ` (+${row.faults.length - 1})`}
        </span>
      );
    default:
      return row[column].toLocaleString('en');
  }
}

function Nothing({ wish }: { wish: Wish }) {
  if (wish.text !== '') {
    return `No link says “${wish.text}”.`;
  }
  if (wish.fault) {
    return `Nothing is wrong in this way: ${FAULTS[wish.fault]}.`;
  }
  return wish.length === 'any' ? 'No links were found.' : 'No text is so long or so short.';
}
