import type { ReactNode } from 'react';

/** A filter that is on or off. */
export function FilterChip({ isOn, press, children }: { isOn: boolean; press: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={isOn}
      className={`btn btn-sm rounded-full px-3 ${isOn ? 'btn-primary' : 'btn-ghost border-base-300'}`}
      onClick={press}
    >
      {children}
    </button>
  );
}

/** A filter that is on and can be taken off. */
export function RemovableChip({ remove, children }: { remove: () => void; children: ReactNode }) {
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
