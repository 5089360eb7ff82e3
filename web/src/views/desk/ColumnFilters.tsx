import { useSearchParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import type { Opening } from './useDesk.ts';

/** What is shown of the openings, as it is kept in the address bar. */
export interface Filter {
  /** Without one, what is likely to be kept. */
  leastFit: number | undefined;
  orphans: boolean;
  category: boolean;
}

const FITS = [0, 20, 40, 60, 80];

const EVERYTHING: Filter = { leastFit: 0, orphans: false, category: false };

export function useFilter(): [Filter, (change: Partial<Filter>) => void, string] {
  const [search, setSearch] = useSearchParams();
  const filter: Filter = {
    leastFit: search.has('fit') ? Number(search.get('fit')) || 0 : undefined,
    orphans: search.has('orphans'),
    category: search.has('category'),
  };
  const set = (change: Partial<Filter>) => {
    const next = { ...filter, ...change };
    const entries = [
      ...(next.leastFit !== undefined ? [['fit', String(next.leastFit)]] : []),
      ...(next.orphans ? [['orphans', '']] : []),
      ...(next.category ? [['category', '']] : []),
    ];
    setSearch(new URLSearchParams(entries as [string, string][]), { replace: true });
  };
  const text = search.toString();
  return [filter, set, text ? `?${text}` : ''];
}

/** Whether an opening is shown; one that was shown before stays when its fit falls, which it does with each link that is taken. */
export function passes(filter: Filter, desk: Schema['Desk'], opening: Opening, wasShown: boolean): boolean {
  return (
    (wasShown || opening.fit >= (filter.leastFit ?? desk.likely)) &&
    (!filter.orphans || opening.page.is_orphan) &&
    (!filter.category || (desk.page.category ?? null) === (opening.page.category ?? null))
  );
}

/** What the filters leave out, and a way to see it all the same. */
export function LeftOut({
  left,
  all,
  likely,
  filter,
  set,
}: {
  left: number;
  all: number;
  likely: number;
  filter: Filter;
  set: (change: Partial<Filter>) => void;
}) {
  if (left === 0) {
    return null;
  }
  const isByFit = !filter.orphans && !filter.category;
  const what = isByFit ? `${left} with a fit below ${filter.leastFit ?? likely}` : `${left} that the filters leave out`;
  return (
    <li className="py-1 text-secondary">
      {left === all && (isByFit ? 'Nothing that is likely to be kept. ' : 'Nothing passes the filters above. ')}
      <button type="button" className="link link-primary" onClick={() => set(EVERYTHING)}>
        Show {what}
      </button>
    </li>
  );
}

/** Filters as words that can be pressed. */
export function ColumnFilters({
  filter,
  likely,
  set,
  hasCategory,
}: {
  filter: Filter;
  likely: number;
  set: (change: Partial<Filter>) => void;
  hasCategory: boolean;
}) {
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
      <label className="flex items-center gap-1 text-xs text-secondary">
        fit at least
        <select
          className="select select-xs figures w-15"
          value={filter.leastFit ?? likely}
          onChange={(event) => set({ leastFit: Number(event.target.value) })}
        >
          {[...new Set([...FITS, likely])]
            .sort((a, b) => a - b)
            .map((fit) => (
              <option key={fit} value={fit}>
                {fit}
              </option>
            ))}
        </select>
      </label>
      <Chip isOn={filter.orphans} press={() => set({ orphans: !filter.orphans })} words="orphans" />
      {hasCategory && (
        <Chip isOn={filter.category} press={() => set({ category: !filter.category })} words="same category" />
      )}
    </div>
  );
}

function Chip({ isOn, press, words }: { isOn: boolean; press: () => void; words: string }) {
  return (
    <button
      type="button"
      aria-pressed={isOn}
      className={`btn btn-xs rounded-full ${isOn ? 'btn-primary' : 'btn-ghost border-base-300'}`}
      onClick={press}
    >
      {words}
    </button>
  );
}
