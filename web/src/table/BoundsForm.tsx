import { type FormEvent, useId, useState } from 'react';
import type { Bounds } from './bounds.ts';
import type { Column } from './column.ts';

interface Props<Key extends string> {
  title: string;
  figures: readonly Column<Key>[];
  first: Key;
  add: (bounds: Bounds<Key>) => void;
}

/** Asks for bounds of a figure. */
export function BoundsForm<Key extends string>({ title, figures, first, add }: Props<Key>) {
  const id = useId();
  const [column, setColumn] = useState(first);
  const [least, setLeast] = useState('');
  const [most, setMost] = useState('');
  const number = (text: string) => (text.trim() === '' ? null : Math.max(0, Math.floor(Number(text))));
  const [from, to] = [number(least), number(most)];
  const problem = from !== null && to !== null && from > to ? 'The first number is larger than the second.' : undefined;
  const isReady = (from !== null || to !== null) && !problem;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (isReady) {
      add({ column, least: from, most: to });
    }
  };
  return (
    <form onSubmit={submit} className="border-b border-base-300 p-3">
      <p className="mb-2 font-semibold">{title}</p>
      <label className="mb-2 block" htmlFor={`${id}-column`}>
        <span className="mb-0.5 block text-secondary">Figure</span>
        <select
          id={`${id}-column`}
          className="select select-sm w-full"
          value={column}
          onChange={(event) => setColumn(event.target.value as Key)}
        >
          {figures.map((figure) => (
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
