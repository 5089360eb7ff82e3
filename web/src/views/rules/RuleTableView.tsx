import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { answer, api, type Schema } from '../../api/client.ts';
import { Field } from '../../parts/Field.tsx';
import { count } from '../../parts/words.ts';
import { useSite } from '../../window/useSite.ts';
import { phrasesOf } from './ruleDraft.ts';
import { useRuleActions } from './useRules.ts';

type Read = Schema['TableRead'];

/** Rules from a table: its columns are shown for correction and its rows to be looked at, before anything is made. */
export function RuleTableView() {
  const site = useSite();
  const [file, setFile] = useState<File>();
  const [columns, setColumns] = useState<string>();
  const query = useQuery({
    queryKey: ['site', site, 'rule-table', file?.name, file?.size, file?.lastModified, columns],
    queryFn: () =>
      answer(
        api.POST('/api/sites/{site}/rules/table', {
          params: { path: { site }, query: columns === undefined ? {} : { columns } },
          body: file as never,
          bodySerializer: (body) => body as never,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      ),
    enabled: file !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-3 border-b border-base-300 px-4 py-2">
        <Link to={`/${site}/rules`} className="font-serif text-xl text-secondary hover:underline">
          Rules
        </Link>
        <h1 className="font-serif text-xl font-semibold">From a table</h1>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-3">
        <div className="max-w-xl">
          <Field
            label="A table of rules"
            help="CSV, TSV or XLSX. Two columns are enough: “phrase” and “target”, a path or an address. Several phrases of a rule stand behind semicolons. Nothing is made before you have seen the rows."
            problem={query.error?.message}
          >
            {(props) => (
              <input
                {...props}
                type="file"
                accept=".csv,.tsv,.txt,.xlsx"
                className="file-input w-full"
                onChange={(event) => {
                  setColumns(undefined);
                  setFile(event.target.files?.[0]);
                }}
              />
            )}
          </Field>
        </div>
        {file && query.data && !query.isError && (
          <>
            <ColumnsRead read={query.data} set={setColumns} />
            {query.data.problem ? (
              <p role="alert" className="font-semibold text-accent">
                {query.data.problem}
              </p>
            ) : (
              <RowsRead key={`${file.name} ${columns}`} site={site} read={query.data} />
            )}
          </>
        )}
      </div>
    </div>
  );
}

function ColumnsRead({ read, set }: { read: Read; set: (columns: string) => void }) {
  const choose = (at: number, is: string) =>
    set(read.columns.map((column, other) => (other === at ? is : (column.is ?? ''))).join(';'));
  return (
    <section aria-label="Columns" className="mb-4 flex gap-3 overflow-x-auto">
      {read.columns.map((column, at) => (
        // Columns have nothing but their places.
        // biome-ignore lint/suspicious/noArrayIndexKey: they neither move nor vanish
        <div key={at} className="w-44 shrink-0 rounded-box border border-base-300 px-3 py-2">
          <p className="truncate font-semibold" title={column.heading}>
            {headingOf(column, at)}
          </p>
          <select
            className="select select-sm my-1 w-full"
            aria-label={`What “${headingOf(column, at)}” is`}
            value={column.is ?? ''}
            onChange={(event) => choose(at, event.target.value)}
          >
            <option value="">not used</option>
            {read.known.map((name) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </select>
          {column.cells.map((cell, row) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the first few cells, in their order
            <p key={row} className="truncate text-xs text-secondary" title={cell}>
              {cell || '–'}
            </p>
          ))}
        </div>
      ))}
    </section>
  );
}

function headingOf(column: Read['columns'][number], at: number): string {
  return column.heading || `Column ${at + 1}`;
}

function RowsRead({ site, read }: { site: number; read: Read }) {
  const navigate = useNavigate();
  const { make } = useRuleActions(site);
  // What is a rule already is left out unless somebody wants it twice.
  const [leftOut, setLeftOut] = useState<ReadonlySet<number>>(
    () => new Set(read.rows.filter((row) => row.double_of !== null).map((row) => row.row)),
  );
  const kept = useMemo(() => read.rows.filter((row) => !leftOut.has(row.row)), [read, leftOut]);
  const toggle = (row: number) => {
    const after = new Set(leftOut);
    if (!after.delete(row)) {
      after.add(row);
    }
    setLeftOut(after);
  };
  return (
    <>
      <p className="figures mb-2 flex flex-wrap items-center gap-3">
        <span role="status">
          {count(read.rows.length, 'row is a rule', 'rows are rules')}
          {read.faults.length > 0 && `, ${count(read.faults.length, 'is none', 'are none')}`}.
        </span>
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={kept.length === 0 || make.isPending}
          onClick={() =>
            make.mutate(
              kept.map((row) => row.rule),
              { onSuccess: () => void navigate(`/${site}/rules`) },
            )
          }
        >
          Make {count(kept.length, 'rule')}
        </button>
        {make.isError && (
          <span role="alert" className="font-semibold text-accent">
            {make.error.message}
          </span>
        )}
      </p>
      {read.faults.length > 0 && (
        <section aria-label="Rows that are no rules" className="mb-3">
          <h2 className="font-semibold">Rows that are no rules</h2>
          <ul>
            {read.faults.map(({ row, why, cells }) => (
              <li key={row} className="figures border-b border-base-300/60 py-1">
                <span className="font-semibold">Row {row}:</span> <span className="text-accent">{why}</span>{' '}
                <span className="text-secondary">{cells.filter((cell) => cell !== '').join(' · ')}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <ul aria-label="Rows">
        {read.rows.map(({ row, rule, leads, double_of }) => (
          <li
            key={row}
            className="border-b border-base-300/60 py-1 [contain-intrinsic-size:auto_2rem] [content-visibility:auto]"
          >
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={!leftOut.has(row)}
                onChange={() => toggle(row)}
              />
              <span className="figures w-12 shrink-0 text-secondary">{row}</span>
              <span className="min-w-0 truncate font-semibold" title={rule.phrases.join(' · ')}>
                {phrasesOf(rule)}
              </span>
              <span className="min-w-0 truncate">→ {leads.text}</span>
              {double_of !== null && <span className="shrink-0 text-accent">a rule already</span>}
            </label>
          </li>
        ))}
      </ul>
    </>
  );
}
