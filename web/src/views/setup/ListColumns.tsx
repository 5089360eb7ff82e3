import type { Schema } from '../../api/client.ts';
import { count } from '../../parts/words.ts';

type Columns = Schema['Columns'];

const MEANINGS: { key: keyof Columns; name: string }[] = [
  { key: 'address', name: 'Address' },
  { key: 'title', name: 'Title' },
  { key: 'phrases', name: 'Phrases' },
];

interface Props {
  list: Schema['ListShown'];
  columns: Columns;
  setColumns: (columns: Columns) => void;
  problem: string | undefined;
}

/** What was understood of a list, to be corrected before anything is read. */
export function ListColumns({ list, columns, setColumns, problem }: Props) {
  const meaningOf = (column: number) => MEANINGS.find(({ key }) => columns[key] === column)?.key ?? '';
  const change = (column: number, meaning: string) => {
    const next = { ...columns };
    for (const { key } of MEANINGS) {
      if (next[key] === column) {
        next[key] = null;
      }
    }
    if (meaning) {
      next[meaning as keyof Columns] = column;
    }
    setColumns(next);
  };
  return (
    <section aria-label="Columns of the list" className="mb-4">
      <p className="mb-1">
        <span className="font-semibold">{count(list.rows, 'row')}.</span> Say what each column holds. Phrases are the
        words by which a page wants to be found, with ; or | between them.
      </p>
      {problem && <p className="mb-1 font-semibold text-accent">{problem}</p>}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard */}
      <div className="overflow-x-auto rounded-box border border-base-300" tabIndex={0}>
        <table className="table table-sm">
          <thead>
            <tr>
              {list.columns.map((column, at) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a column is known by its place
                <th key={at} scope="col" className="align-top">
                  <span className="mb-1 block max-w-56 truncate text-base-content">{column.heading}</span>
                  <select
                    className="select select-sm w-36 text-base-content"
                    aria-label={`What “${column.heading}” holds`}
                    value={meaningOf(at)}
                    onChange={(event) => change(at, event.target.value)}
                  >
                    <option value="">not used</option>
                    {MEANINGS.map(({ key, name }) => (
                      <option key={key} value={key}>
                        {name}
                      </option>
                    ))}
                  </select>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(list.columns[0]?.cells ?? []).map((_, row) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is known by its place
              <tr key={row}>
                {list.columns.map((column, at) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: a column is known by its place
                  <td key={at} className={meaningOf(at) ? '' : 'text-secondary'}>
                    <span className="block max-w-56 truncate">{column.cells[row]}</span>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
