import { type ReactNode, useId } from 'react';

/** Switches beside each other, as many to a row as there is room for. */
export function Checks({ children }: { children: ReactNode }) {
  return <div className="mt-1 flex flex-wrap gap-x-5 gap-y-1">{children}</div>;
}

interface CountProps {
  label: string;
  value: number;
  least: number;
  most?: number;
  set: (value: number) => void;
}

/** A whole number within a sentence. */
export function Count({ label, value, least, most = 1000, set }: CountProps) {
  return (
    <input
      type="number"
      aria-label={label}
      className="input input-sm w-18 px-2 text-right"
      min={least}
      max={most}
      value={value}
      onChange={(event) => {
        const typed = Math.round(Number(event.target.value));
        if (Number.isFinite(typed)) {
          set(Math.min(most, Math.max(least, typed)));
        }
      }}
    />
  );
}

/** A day within a sentence. */
export function Day({
  label,
  value,
  set,
}: {
  label: string;
  value: string | null;
  set: (value: string | null) => void;
}) {
  return (
    <input
      type="date"
      aria-label={label}
      className="input input-sm w-38 px-2"
      value={value ?? ''}
      onChange={(event) => set(event.target.value || null)}
    />
  );
}

interface LineProps<T> {
  label: string;
  placeholder?: string;
  value: T;
  set: (value: T) => void;
}

/** A line of text with what it is. */
export function Line({ label, value, set }: LineProps<string>) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-1 block">
        {label}
      </label>
      <input id={id} className="input input-sm w-full" value={value} onChange={(event) => set(event.target.value)} />
    </div>
  );
}

/** Several texts, one to a line. */
export function Lines({ label, placeholder, value, set }: LineProps<string[]>) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-1 block">
        {label}
      </label>
      <textarea
        id={id}
        className="textarea textarea-sm w-full"
        rows={Math.max(1, value.length)}
        placeholder={placeholder}
        value={value.join('\n')}
        onChange={(event) => set(event.target.value === '' ? [] : event.target.value.split('\n'))}
      />
    </div>
  );
}
