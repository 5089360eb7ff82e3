import { TargetField } from '../../parts/TargetField.tsx';

interface Props {
  site: number;
  label: string;
  /** Pages by their numbers. */
  value: readonly number[];
  /** What pages are called, by their numbers. */
  names: ReadonlyMap<number, string>;
  set: (pages: number[]) => void;
  named: (page: number, title: string) => void;
}

/** A set of pages, found by their titles. */
export function PagesField({ site, label, value, names, set, named }: Props) {
  return (
    <fieldset>
      <legend className="sr-only">{label}</legend>
      <TargetField
        // Empty again after each.
        key={value.length}
        site={site}
        label={label}
        takes="pages"
        isInForm
        choose={(target, name) => {
          if (typeof target === 'number' && !value.includes(target)) {
            named(target, name);
            set([...value, target]);
          }
        }}
      />
      {value.length > 0 && (
        <ul className="mt-1 flex flex-wrap gap-1">
          {value.map((page) => (
            <li key={page} className="badge badge-ghost max-w-full gap-1">
              <span className="truncate">{names.get(page) ?? `Page ${page}`}</span>
              <button
                type="button"
                className="btn btn-xs btn-ghost btn-circle"
                aria-label={`Without ${names.get(page) ?? `page ${page}`}`}
                onClick={() => set(value.filter((one) => one !== page))}
              >
                ✕
              </button>
            </li>
          ))}
        </ul>
      )}
    </fieldset>
  );
}
