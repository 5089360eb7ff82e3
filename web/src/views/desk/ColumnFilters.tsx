import { useSearchParams } from 'react-router';
import { EVERYTHING, type Filter, readFilter, writeFilter } from './filter.ts';

const FITS = [0, 20, 40, 60, 80];

/** The filters, what changes them, and how they stand in an address. */
export function useFilter(): [Filter, (change: Partial<Filter>) => void, string] {
  const [search, setSearch] = useSearchParams();
  const filter = readFilter(search);
  const set = (change: Partial<Filter>) => setSearch(writeFilter({ ...filter, ...change }), { replace: true });
  const text = search.toString();
  return [filter, set, text ? `?${text}` : ''];
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
