import { Panel } from '../../parts/Panel.tsx';
import { KINDS } from '../../parts/words.ts';
import { BoundsForm } from '../../table/BoundsForm.tsx';
import { boundsInWords } from '../../table/bounds.ts';
import { FilterChip, RemovableChip } from '../../table/Chips.tsx';
import { TextFilter } from '../../table/TextFilter.tsx';
import { COLUMNS, type ColumnKey, FIGURES, type Kind, type Only } from './columns.ts';
import { ONLY, type Wish } from './wish.ts';

export interface FilterProps {
  wish: Wish;
  setWish: (change: Partial<Wish>) => void;
}

/** What is offered as a press; the others come from Today and from links. */
const OFFERED: Only[] = ['orphans', 'unreachable', 'offered', 'dead_ends', 'broken'];

/** Filters as words: those that are on can be taken off. */
export function Filters({ wish, setWish }: FilterProps) {
  const offered = wish.only && !OFFERED.includes(wish.only) ? [...OFFERED, wish.only] : OFFERED;
  const others = (column: ColumnKey) => wish.bounds.filter((other) => other.column !== column);
  return (
    <>
      <TextFilter
        text={wish.text}
        set={(text) => setWish({ text })}
        label="Filter pages by title, address, kind or category"
        placeholder="Title, address, category"
      />
      {offered.map((only) => (
        <FilterChip
          key={only}
          isOn={wish.only === only}
          press={() => setWish({ only: wish.only === only ? null : only })}
        >
          {ONLY[only]}
        </FilterChip>
      ))}
      {wish.kind && <RemovableChip remove={() => setWish({ kind: null })}>only {KINDS[wish.kind]}s</RemovableChip>}
      {wish.category && (
        <RemovableChip remove={() => setWish({ category: null })}>only “{wish.category}”</RemovableChip>
      )}
      {wish.bounds.map((bounds) => (
        <RemovableChip key={bounds.column} remove={() => setWish({ bounds: others(bounds.column) })}>
          {boundsInWords(bounds, COLUMNS)}
        </RemovableChip>
      ))}
      <Panel name="Add a filter">
        {(close) => (
          <div className="w-72">
            <BoundsForm
              title="Pages whose figure is within bounds"
              figures={FIGURES}
              first="words"
              add={(bounds) => {
                setWish({ bounds: [...others(bounds.column), bounds] });
                close();
              }}
            />
            <OfKind setWish={setWish} close={close} />
          </div>
        )}
      </Panel>
    </>
  );
}

function OfKind({ setWish, close }: Pick<FilterProps, 'setWish'> & { close: () => void }) {
  return (
    <fieldset className="p-3">
      <legend className="sr-only">Kind of page</legend>
      <p className="mb-1 font-semibold" aria-hidden="true">
        Pages of one kind
      </p>
      <div className="flex flex-wrap gap-1.5">
        {(Object.keys(KINDS) as Kind[]).map((kind) => (
          <button
            key={kind}
            type="button"
            className="btn btn-xs btn-ghost rounded-full border-base-300"
            onClick={() => {
              setWish({ kind });
              close();
            }}
          >
            {KINDS[kind]}
          </button>
        ))}
      </div>
    </fieldset>
  );
}
