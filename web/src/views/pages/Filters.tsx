import { type FormEvent, type ReactNode, useEffect, useId, useState } from 'react';
import { Menu } from '../../parts/Menu.tsx';
import { KINDS } from '../../parts/words.ts';
import { type ColumnKey, FIGURES, type Kind, type Only } from './columns.ts';
import { type Bounds, boundsInWords, ONLY, type Wish } from './wish.ts';

export interface FilterProps {
  wish: Wish;
  setWish: (change: Partial<Wish>) => void;
}

/** What is offered as a press; the others come from Today and from links. */
const OFFERED: Only[] = ['orphans', 'unreachable', 'offered', 'dead_ends', 'broken'];

/** Filters as words: those that are on can be taken off. */
export function Filters({ wish, setWish }: FilterProps) {
  const offered = wish.only && !OFFERED.includes(wish.only) ? [...OFFERED, wish.only] : OFFERED;
  return (
    <>
      <TextFilter wish={wish} setWish={setWish} />
      {offered.map((only) => (
        <button
          key={only}
          type="button"
          aria-pressed={wish.only === only}
          className={`btn btn-sm rounded-full px-3 ${wish.only === only ? 'btn-primary' : 'btn-ghost border-base-300'}`}
          onClick={() => setWish({ only: wish.only === only ? null : only })}
        >
          {ONLY[only]}
        </button>
      ))}
      {wish.kind && <Chip remove={() => setWish({ kind: null })}>only {KINDS[wish.kind]}s</Chip>}
      {wish.bounds.map((bounds) => (
        <Chip
          key={bounds.column}
          remove={() => setWish({ bounds: wish.bounds.filter((other) => other.column !== bounds.column) })}
        >
          {boundsInWords(bounds)}
        </Chip>
      ))}
      <Menu name="Add a filter">{(close) => <AddFilter wish={wish} setWish={setWish} close={close} />}</Menu>
    </>
  );
}

function Chip({ remove, children }: { remove: () => void; children: ReactNode }) {
  return (
    <span className="figures inline-flex h-8 items-center rounded-full bg-primary pl-3 text-primary-content">
      {children}
      <button type="button" className="h-8 rounded-full px-2.5" onClick={remove}>
        <span aria-hidden="true">×</span>
        <span className="sr-only">take this filter off</span>
      </button>
    </span>
  );
}

function AddFilter({ wish, setWish, close }: FilterProps & { close: () => void }) {
  const id = useId();
  const [column, setColumn] = useState<ColumnKey>('words');
  const [least, setLeast] = useState('');
  const [most, setMost] = useState('');
  const number = (text: string) => (text.trim() === '' ? null : Math.max(0, Math.floor(Number(text))));
  const [from, to] = [number(least), number(most)];
  const problem = from !== null && to !== null && from > to ? 'The first number is larger than the second.' : undefined;
  const isReady = (from !== null || to !== null) && !problem;
  const add = (event: FormEvent) => {
    event.preventDefault();
    if (isReady) {
      const bounds: Bounds = { column, least: from, most: to };
      setWish({ bounds: [...wish.bounds.filter((other) => other.column !== column), bounds] });
      close();
    }
  };
  return (
    <div className="w-72">
      <form onSubmit={add} className="border-b border-base-300 p-3">
        <p className="mb-2 font-semibold">Pages whose figure is within bounds</p>
        <label className="mb-2 block" htmlFor={`${id}-column`}>
          <span className="mb-0.5 block text-secondary">Figure</span>
          <select
            id={`${id}-column`}
            className="select select-sm w-full"
            value={column}
            onChange={(event) => setColumn(event.target.value as ColumnKey)}
          >
            {FIGURES.map((figure) => (
              <option key={figure.key} value={figure.key}>
                {figure.name}
              </option>
            ))}
          </select>
        </label>
        <div className="flex gap-2">
          <Bound label="at least" value={least} set={setLeast} />
          <Bound label="at most" value={most} set={setMost} />
        </div>
        {problem && (
          <p role="alert" className="mt-1 font-semibold text-accent">
            {problem}
          </p>
        )}
        <button type="submit" className="btn btn-sm btn-primary mt-2 w-full" disabled={!isReady}>
          Add the filter
        </button>
      </form>
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
    </div>
  );
}

function Bound({ label, value, set }: { label: string; value: string; set: (value: string) => void }) {
  return (
    <label className="flex-1">
      <span className="mb-0.5 block text-secondary">{label}</span>
      <input
        type="number"
        min="0"
        step="1"
        inputMode="numeric"
        className="input input-sm figures w-full"
        value={value}
        onChange={(event) => set(event.target.value)}
      />
    </label>
  );
}

function TextFilter({ wish, setWish }: FilterProps) {
  const [text, setText] = useState(wish.text);
  useEffect(() => setText(wish.text), [wish.text]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only typing sets off the pause
  useEffect(() => {
    const timer = window.setTimeout(() => text !== wish.text && setWish({ text }), 200);
    return () => window.clearTimeout(timer);
  }, [text]);
  return (
    <input
      type="search"
      className="input input-sm w-56"
      aria-label="Filter pages by title, address, kind or category"
      placeholder="Title, address, category"
      value={text}
      onChange={(event) => setText(event.target.value)}
    />
  );
}
