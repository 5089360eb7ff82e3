import { useQuery } from '@tanstack/react-query';
import { type KeyboardEvent, useId, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { answer, api } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import { count } from '../../parts/words.ts';
import { harmless } from '../../table/clipboard.ts';
import { useSite } from '../../window/useSite.ts';
import { COLUMNS, fillDown, type Grid, gridOf, type Proposed, put, rulesOfGrid } from './phraseGrid.ts';
import { useRuleActions } from './useRules.ts';

/** Orphans for which phrases are proposed where no pages are named. */
const MOST_ORPHANS = 50;

/** Phrases for chosen pages, edited like a spreadsheet and made into rules in one go. */
export function ProposedPhrasesView() {
  const site = useSite();
  const [search] = useSearchParams();
  const chosen = search.get('pages');
  const query = useQuery({
    queryKey: ['site', site, 'rule-phrases', chosen],
    queryFn: async () => {
      const pages = chosen ? chosen.split(',').map(Number) : await orphans(site);
      return answer(api.POST('/api/sites/{site}/rules/propose', { params: { path: { site } }, body: { pages } }));
    },
  });
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-3 border-b border-base-300 px-4 py-2">
        <Link to={`/${site}/rules`} className="font-serif text-xl text-secondary hover:underline">
          Rules
        </Link>
        <h1 className="font-serif text-xl font-semibold">Phrases for {chosen ? 'the chosen pages' : 'orphans'}</h1>
      </div>
      {query.isError && !query.data ? (
        <Failed error={query.error} retry={() => void query.refetch()} />
      ) : !query.data ? (
        <Loading what="Looking for phrases" />
      ) : query.data.length === 0 ? (
        <Empty title="There are no orphans.">Select pages in Pages to get phrases for them.</Empty>
      ) : (
        <PhraseGrid key={chosen ?? ''} site={site} pages={query.data} />
      )}
    </div>
  );
}

async function orphans(site: number): Promise<number[]> {
  const found = await answer(
    api.GET('/api/sites/{site}/pages', { params: { path: { site }, query: { only: 'orphans', limit: MOST_ORPHANS } } }),
  );
  return found.rows.map((row) => row.number);
}

function PhraseGrid({ site, pages }: { site: number; pages: readonly Proposed[] }) {
  const navigate = useNavigate();
  const { make } = useRuleActions(site);
  const [grid, setGrid] = useState<Grid>(() => gridOf(pages));
  const rules = rulesOfGrid(grid, pages);
  const paths = new Map(pages.map(({ page }) => [page.number, page.path]));
  const csv = () => {
    const cell = (text: string) => `"${harmless(text).replaceAll('"', '""')}"`;
    const rows = rules.map(({ phrases, target }) => [phrases.join('; '), paths.get(Number(target)) ?? '']);
    return `data:text/csv;charset=utf-8,${encodeURIComponent([['phrase', 'target'], ...rows].map((row) => row.map(cell).join(',')).join('\r\n'))}`;
  };
  return (
    <>
      <p className="px-4 py-2 text-secondary">
        Type, or paste cells from a spreadsheet. Enter goes down, Shift Enter up, Ctrl D fills in the cell above. What a
        page’s names offer is proposed as you type.
      </p>
      <div className="min-h-0 flex-1 overflow-auto px-4">
        <table className="w-full min-w-[64rem] table-fixed">
          <thead className="sticky top-0 z-10 bg-base-200">
            <tr className="h-8">
              <th scope="col" className="w-[22%] px-2 text-left">
                Page
              </th>
              {Array.from({ length: COLUMNS }, (_, at) => at + 1).map((at) => (
                <th key={at} scope="col" className="px-2 text-left">
                  Phrase {at}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {pages.map((proposed, row) => (
              <Row
                key={proposed.page.number}
                site={site}
                proposed={proposed}
                cells={grid[row] ?? []}
                row={row}
                set={(column, text) => setGrid(put(grid, row, column, text))}
                fill={(column) => setGrid(fillDown(grid, row, column))}
              />
            ))}
          </tbody>
        </table>
      </div>
      <footer className="flex flex-wrap items-center gap-3 border-t border-base-300 bg-base-200 px-4 py-2">
        <span className="figures text-secondary">
          {count(rules.length, 'page has', 'pages have')} phrases. Nothing is linked before you have seen the places.
        </span>
        {make.isError && (
          <span role="alert" className="font-semibold text-accent">
            {make.error.message}
          </span>
        )}
        <a className="btn btn-sm btn-ghost ml-auto border-base-300" href={csv()} download="phrases.csv">
          Save as CSV
        </a>
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={rules.length === 0 || make.isPending}
          onClick={() =>
            make.mutate(rules, {
              onSuccess: ({ numbers }) => void navigate(`/${site}/rules/places?rules=${numbers.join()}`),
            })
          }
        >
          Make {count(rules.length, 'rule')}
        </button>
      </footer>
    </>
  );
}

interface RowProps {
  site: number;
  proposed: Proposed;
  cells: readonly string[];
  row: number;
  set: (column: number, text: string) => void;
  fill: (column: number) => void;
}

function Row({ site, proposed, cells, row, set, fill }: RowProps) {
  const list = useId();
  return (
    <tr className="border-b border-base-300/60 align-top">
      <th scope="row" className="px-2 py-1 text-left font-normal">
        <span className="title-link block truncate">
          <PageName site={site} page={proposed.page} />
        </span>
        {proposed.rules.length > 0 && (
          <Link to={`/${site}/rules/${proposed.rules[0]}`} className="text-xs text-accent underline">
            has {count(proposed.rules.length, 'rule')}
          </Link>
        )}
        <datalist id={list}>
          {proposed.phrases.map(({ text, from, pages }) => (
            <option key={text} value={text}>
              {from}, on {count(pages, 'page')}
            </option>
          ))}
        </datalist>
      </th>
      {cells.map((cell, column) => {
        const known = proposed.phrases.find((one) => one.text === cell.trim());
        return (
          // Cells have nothing but their places.
          // biome-ignore lint/suspicious/noArrayIndexKey: they neither move nor vanish
          <td key={column} className="px-1 py-1">
            <input
              className="input input-sm w-full"
              aria-label={`Phrase ${column + 1} for ${proposed.page.title}`}
              data-cell={`${row}-${column}`}
              list={list}
              value={cell}
              onChange={(event) => set(column, event.target.value)}
              onPaste={(event) => {
                const text = event.clipboardData.getData('text/plain');
                if (/[\t\n]/.test(text)) {
                  event.preventDefault();
                  set(column, text);
                }
              }}
              onKeyDown={(event) => press(event, row, column, fill)}
            />
            {known && (
              <span className="block truncate px-1 text-xs text-secondary">
                {known.from} · {count(known.pages, 'page')}
              </span>
            )}
          </td>
        );
      })}
    </tr>
  );
}

/** Goes from cell to cell. The arrows move within the words and through what is proposed, as everywhere. */
function press(event: KeyboardEvent<HTMLInputElement>, row: number, column: number, fill: (column: number) => void) {
  if (event.key.toLowerCase() === 'd' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault();
    fill(column);
    return;
  }
  const by = event.key !== 'Enter' ? 0 : event.shiftKey ? -1 : 1;
  const next = by && document.querySelector<HTMLInputElement>(`[data-cell="${row + by}-${column}"]`);
  if (next && !event.nativeEvent.isComposing) {
    event.preventDefault();
    next.focus();
    next.select();
  }
}
