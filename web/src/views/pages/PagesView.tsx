import { useState } from 'react';
import { BestDialog } from '../../best/BestDialog.tsx';
import { Menu } from '../../parts/Menu.tsx';
import { say } from '../../parts/notices.ts';
import { count } from '../../parts/words.ts';
import { useSite, useSiteStatus } from '../../window/useSite.ts';
import { COLUMNS } from './columns.ts';
import { copyTable } from './copy.ts';
import { type FilterProps, Filters } from './Filters.tsx';
import { PageTable } from './PageTable.tsx';
import { type Selection, useSelection } from './useSelection.ts';
import { ONLY, queryOf, shownColumns, useWish, type Wish } from './wish.ts';

export function PagesView() {
  const site = useSite();
  const [wish, setWish] = useWish();
  const [total, setTotal] = useState<number>();
  const selection = useSelection(site, wish);
  const [takes, setTakes] = useState(false);
  const copy = async () => {
    try {
      await copyTable(shownColumns(wish), [...selection.rows.values()]);
      say({ text: `Copied ${count(selection.rows.size, 'page')} as a table.` });
    } catch {
      say({ text: 'The browser does not let Strelm write to the clipboard. Export the table instead.', isError: true });
    }
  };
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <h1 className="mr-1 font-serif text-xl font-semibold">Pages</h1>
        <Filters wish={wish} setWish={setWish} />
        <span className="ml-auto flex items-center gap-2">
          <Columns wish={wish} setWish={setWish} />
          <Export site={site} wish={wish} />
        </span>
      </div>
      <p className="figures flex min-h-7 flex-wrap items-center gap-x-3 px-4 pb-1 text-secondary">
        <span role="status">{total === undefined ? '' : `${count(total, 'page')} shown`}</span>
        <Selected selection={selection} copy={() => void copy()} takeBest={() => setTakes(true)} />
        <Order wish={wish} setWish={setWish} />
      </p>
      <PageTable
        site={site}
        wish={wish}
        setWish={setWish}
        onTotal={setTotal}
        selection={selection}
        copy={() => void copy()}
        nothing={<Nothing wish={wish} />}
      />
      {takes && (
        <BestDialog site={site} pages={[...selection.rows.keys()]} direction="in" close={() => setTakes(false)} />
      )}
    </div>
  );
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

function Selected(props: { selection: Selection; copy: () => void; takeBest: () => void }) {
  const { selection, copy, takeBest } = props;
  if (selection.rows.size === 0) {
    return null;
  }
  return (
    <>
      <span className="font-semibold text-base-content">{count(selection.rows.size, 'page')} selected</span>
      <button type="button" className="font-semibold text-primary underline" onClick={takeBest}>
        Take the best for {selection.rows.size === 1 ? 'it' : 'all of them'} …
      </button>
      <button type="button" className="text-primary underline" onClick={copy}>
        Copy as a table
      </button>
      <button type="button" className="text-primary underline" onClick={selection.clear}>
        Select none
      </button>
    </>
  );
}

function Columns({ wish, setWish }: FilterProps) {
  const toggle = (key: (typeof COLUMNS)[number]['key'], isShown: boolean) => {
    const keys = new Set(wish.columns);
    if (isShown) {
      keys.add(key);
    } else {
      keys.delete(key);
    }
    setWish({ columns: COLUMNS.map((column) => column.key).filter((other) => keys.has(other)) });
  };
  return (
    <Menu name="Columns" alignRight>
      {() => (
        <fieldset className="w-60 p-3">
          <legend className="sr-only">Columns that are shown</legend>
          {COLUMNS.map((column) => (
            <label key={column.key} className="flex items-center gap-2 py-0.5" title={column.meaning}>
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={wish.columns.includes(column.key)}
                disabled={column.key === 'title'}
                onChange={(event) => toggle(column.key, event.target.checked)}
              />
              {column.name}
            </label>
          ))}
        </fieldset>
      )}
    </Menu>
  );
}

/** Links, so that the browser's own means of saving a file are at hand. */
const FORMATS = [
  { format: 'csv', file: 'pages.csv', name: 'CSV, for any spreadsheet' },
  { format: 'xlsx', file: 'pages.xlsx', name: 'XLSX workbook' },
  { format: 'jsonl', file: 'pages.jsonl', name: 'JSON Lines, for programs' },
  { format: 'sitemap', file: 'sitemap.xml', name: 'Sitemap of these pages' },
  { format: 'graphml', file: 'links.graphml', name: 'GraphML of the links among them' },
] as const;

function Export({ site, wish }: { site: number; wish: Wish }) {
  const address = (format: string) => {
    const query = { ...queryOf(wish), format, columns: wish.columns.join(',') };
    return `/api/sites/${site}/pages/export?${new URLSearchParams(Object.entries(query).map(([key, value]) => [key, String(value)]))}`;
  };
  return (
    <Menu name="Export" alignRight>
      {(close) => (
        <ul className="w-72 p-2">
          {FORMATS.map(({ format, file, name }) => (
            <li key={format}>
              <a
                className="block rounded px-2 py-1.5 hover:bg-base-200"
                href={address(format)}
                download={file}
                onClick={() => window.setTimeout(close)}
              >
                {name}
              </a>
            </li>
          ))}
          <li className="px-2 pt-1 text-xs text-secondary">All rows that pass the filters, with the columns shown.</li>
        </ul>
      )}
    </Menu>
  );
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
