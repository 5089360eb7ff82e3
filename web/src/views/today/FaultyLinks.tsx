import { useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { useKeys } from '../../parts/keys.ts';
import { MendButtons, useMend } from '../../parts/Mend.tsx';
import { PageName } from '../../parts/PageName.tsx';

interface Props {
  site: number;
  rows: Schema['BrokenRow'][];
  /** Whether J, K, F and X work here. */
  hasKeys: boolean;
}

/** Links with a fault, each with what mends it. */
export function FaultyLinks({ site, rows, hasKeys }: Props) {
  const { mend, isMended } = useMend();
  const shown = rows.filter((row) => !isMended(row.repair));
  const mendable = shown.filter((row) => row.repair);
  const [wanted, setWanted] = useState(0);
  const current = mendable[Math.min(wanted, mendable.length - 1)];
  const move = (by: number) =>
    setWanted(Math.max(0, Math.min(mendable.length - 1, Math.min(wanted, mendable.length - 1) + by)));
  const act = (how: 'point' | 'take-off') => current?.repair && mend(current.repair, how);
  useKeys(
    hasKeys && mendable.length > 0
      ? { j: () => move(1), k: () => move(-1), f: () => act('point'), x: () => act('take-off') }
      : {},
  );
  return (
    <>
      {hasKeys && mendable.length > 0 && (
        <p className="text-xs text-secondary">
          <b>J</b> <b>K</b> next, previous · <b>F</b> point to the proposed page · <b>X</b> take the link off · <b>U</b>{' '}
          undo
        </p>
      )}
      <ul className="mt-1.5">
        {shown.map((row) => (
          <Row key={`${row.page.number} ${row.to}`} site={site} row={row} isCurrent={hasKeys && row === current} />
        ))}
      </ul>
    </>
  );
}

function Row({ site, row, isCurrent }: { site: number; row: Schema['BrokenRow']; isCurrent: boolean }) {
  return (
    <li
      aria-current={isCurrent || undefined}
      className={`flex flex-wrap items-center gap-x-2 gap-y-1 border-l-4 py-1 pl-2 ${isCurrent ? 'border-primary bg-base-200/60' : 'border-transparent'}`}
    >
      <span className="min-w-0 flex-1">
        <PageName site={site} page={row.page} /> leads to <span className="font-semibold wrap-anywhere">{row.to}</span>{' '}
        <span className="text-secondary">
          · {row.why}
          {row.only_furniture ? ', from around the text: change it in the template' : ''}
          {row.times > 1 ? `, ${row.times} times` : ''}
        </span>
      </span>
      {row.repair && (
        <MendButtons repair={row.repair} of={`the link on ${row.page.title} to ${row.to}`} showKeys={isCurrent} />
      )}
    </li>
  );
}
