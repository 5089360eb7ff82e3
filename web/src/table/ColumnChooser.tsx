import { Panel } from '../parts/Panel.tsx';
import { type Column, columnsOf } from './column.ts';

interface Props<Key extends string> {
  all: readonly Column<Key>[];
  shown: readonly Key[];
  set: (shown: Key[]) => void;
  /** The column without which a row would have no name. */
  always: Key;
}

/** Which columns are shown, in a menu. */
export function ColumnChooser<Key extends string>({ all, shown, set, always }: Props<Key>) {
  const toggle = (key: Key, isShown: boolean) =>
    set(columnsOf(all, isShown ? [...shown, key] : shown.filter((other) => other !== key)));
  return (
    <Panel name="Columns" alignRight>
      {() => (
        <fieldset className="w-60 p-3">
          <legend className="sr-only">Columns that are shown</legend>
          {all.map((column) => (
            <label key={column.key} className="flex items-center gap-2 py-0.5" title={column.meaning}>
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={shown.includes(column.key)}
                disabled={column.key === always}
                onChange={(event) => toggle(column.key, event.target.checked)}
              />
              {column.name}
            </label>
          ))}
        </fieldset>
      )}
    </Panel>
  );
}
