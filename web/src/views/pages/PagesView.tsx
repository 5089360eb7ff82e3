import { useCallback, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { BestDialog } from '../../best/BestDialog.tsx';
import { count } from '../../parts/words.ts';
import { ColumnChooser } from '../../table/ColumnChooser.tsx';
import { DataTable } from '../../table/DataTable.tsx';
import { type ExportFormat, ExportMenu } from '../../table/ExportMenu.tsx';
import { type Selection, useSelection } from '../../table/useSelection.ts';
import { useSite, useSiteStatus } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { COLUMNS, type PageColumn } from './columns.ts';
import { copyPages } from './copyPages.ts';
import { type FilterProps, Filters } from './Filters.tsx';
import { PageCell } from './PageCell.tsx';
import { PAGE_WORDS, type PageRow, pageRows } from './pageRows.ts';
import { ONLY, queryOf, shownColumns, useWish, type Wish } from './wish.ts';

export function PagesView() {
  const site = useSite();
  const [wish, setWish] = useWish();
  const [total, setTotal] = useState<number>();
  const source = pageRows(site, wish);
  const selection = useSelection(source, PAGE_WORDS);
  const shown = wish.columns.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: columns are compared by their keys
  const columns = useMemo(() => shownColumns(wish), [shown]);
  const cell = useCallback(
    (column: PageColumn, row: PageRow, index: number) => (
      <PageCell column={column} site={site} index={index} row={row} />
    ),
    [site],
  );
  const [takes, setTakes] = useState(false);
  const copy = () => void copyPages(columns, [...selection.rows.values()]);
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
        <Filters wish={wish} setWish={setWish} />
        <span className="ml-auto flex items-center gap-2">
          <ColumnChooser all={COLUMNS} shown={wish.columns} set={(columns) => setWish({ columns })} always="title" />
          <ExportMenu
            formats={FORMATS}
            address={(format) => exported(site, wish, format)}
            what="All rows that pass the filters, with the columns shown."
          />
        </span>
      </div>
      <p className="figures flex min-h-7 flex-wrap items-center gap-x-3 px-4 pb-1 text-secondary">
        <span role="status">{total === undefined ? '' : `${count(total, 'page')} shown`}</span>
        <Selected site={site} selection={selection} copy={copy} takeBest={() => setTakes(true)} />
        <Order wish={wish} setWish={setWish} />
      </p>
      <DataTable
        source={source}
        columns={columns}
        order={wish}
        setOrder={setWish}
        selection={selection}
        keyOf={PAGE_WORDS.keyOf}
        nameOf={titleOf}
        cell={cell}
        copy={copy}
        onTotal={setTotal}
        loading="Gathering the pages"
        nothing={<Nothing wish={wish} />}
      />
      {takes && (
        <BestDialog site={site} pages={[...selection.rows.keys()]} direction="in" close={() => setTakes(false)} />
      )}
    </div>
  );
}

function titleOf(row: PageRow): string {
  return row.title;
}

/** The order in which an hour pays most, one press away. */
function Order({ wish, setWish }: FilterProps) {
  const isOn = wish.sort === 'attention';
  return (
    <button
      type="button"
      className="ml-auto text-primary underline"
      onClick={() => setWish(isOn ? { sort: 'depth', descending: true } : { sort: 'attention', descending: true })}
    >
      {isOn ? 'Deepest first' : 'Where an hour pays most'}
    </button>
  );
}

/** Pages for which phrases are proposed at once. */
const MOST_WITH_PHRASES = 500;

function Selected(props: { site: number; selection: Selection<PageRow>; copy: () => void; takeBest: () => void }) {
  const { site, selection, copy, takeBest } = props;
  if (selection.rows.size === 0) {
    return null;
  }
  return (
    <>
      <span className="font-semibold text-base-content">{count(selection.rows.size, 'page')} selected</span>
      <button type="button" className="font-semibold text-primary underline" onClick={takeBest}>
        Take the best for {selection.rows.size === 1 ? 'it' : 'all of them'} …
      </button>
      {selection.rows.size <= MOST_WITH_PHRASES && (
        <Link
          to={`/${site}/rules/phrases?pages=${[...selection.rows.keys()].join()}`}
          className="text-primary underline"
        >
          Propose phrases …
        </Link>
      )}
      <button type="button" className="text-primary underline" onClick={copy}>
        Copy as a table
      </button>
      <button type="button" className="text-primary underline" onClick={selection.clear}>
        Select none
      </button>
    </>
  );
}

const FORMATS: ExportFormat[] = [
  { format: 'csv', file: 'pages.csv', name: 'CSV, for any spreadsheet' },
  { format: 'xlsx', file: 'pages.xlsx', name: 'XLSX workbook' },
  { format: 'jsonl', file: 'pages.jsonl', name: 'JSON Lines, for programs' },
  { format: 'sitemap', file: 'sitemap.xml', name: 'Sitemap of these pages' },
  { format: 'graphml', file: 'links.graphml', name: 'GraphML of the links among them' },
];

function exported(site: number, wish: Wish, format: string): string {
  const query = { ...queryOf(wish), format, columns: wish.columns.join(',') };
  const search = new URLSearchParams(Object.entries(query).map(([key, value]) => [key, String(value)]));
  return `/api/sites/${site}/pages/export?${search}`;
}

const NONE: Partial<Record<NonNullable<Wish['only']>, string>> = {
  orphans: 'Every page has at least one link in.',
  unreachable: 'Every page is within reach of the entry page.',
  dead_ends: 'Every page with text leads on to another.',
  broken: 'No link leads nowhere.',
  offered: 'No page is named by another one in words that could carry a link.',
  fresh: 'The latest reading found no new page.',
};

function Nothing({ wish }: { wish: Wish }) {
  const phase = useSiteStatus().data?.reading?.phase;
  if (wish.text !== '') {
    return `No page has “${wish.text}” in its title, address, kind or category.`;
  }
  if (wish.bounds.length > 0 || wish.kind) {
    return 'No page passes all these filters. Take one off.';
  }
  if (wish.only) {
    return NONE[wish.only] ?? `No page is “${ONLY[wish.only]}”.`;
  }
  return phase === 'done' || phase === 'failed'
    ? 'No pages were found.'
    : 'Pages appear here as soon as they are read.';
}
