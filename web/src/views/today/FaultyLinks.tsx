import { useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { useKeys } from '../../parts/keys.ts';
import { MendButtons, useMend } from '../../parts/Mend.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { count, number } from '../../parts/words.ts';
import { MendAll } from './MendAll.tsx';

interface Props {
  site: number;
  rows: Schema['FaultRow'][];
  /** Whether J, K, F and X work here. */
  hasKeys: boolean;
}

/** Whether one key mends it at once; what stands on many pages is looked at first. */
function isOne(row: Schema['FaultRow']): boolean {
  return row.pages <= 1;
}

/** Addresses to which faulty links lead, each with what mends all of them. */
export function FaultyLinks({ site, rows, hasKeys }: Props) {
  const { mend, isMended } = useMend();
  const [open, setOpen] = useState<Schema['FaultRow']>();
  const shown = rows.filter((row) => !(isOne(row) && isMended(row.repair)));
  const mendable = shown.filter((row) => row.repair);
  const [wanted, setWanted] = useState(0);
  const current = mendable[Math.min(wanted, mendable.length - 1)];
  const move = (by: number) =>
    setWanted(Math.max(0, Math.min(mendable.length - 1, Math.min(wanted, mendable.length - 1) + by)));
  const act = (how: 'point' | 'take-off') => {
    if (current && !isOne(current)) {
      setOpen(current);
    } else if (current?.repair) {
      mend(current.repair, how);
    }
  };
  useKeys(
    hasKeys && mendable.length > 0 && !open
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
          <Row
            key={`${row.address}#${row.fragment ?? ''}`}
            site={site}
            row={row}
            isCurrent={hasKeys && row === current}
            open={() => setOpen(row)}
          />
        ))}
      </ul>
      {open && <MendAll site={site} row={open} close={() => setOpen(undefined)} />}
    </>
  );
}

interface RowProps {
  site: number;
  row: Schema['FaultRow'];
  isCurrent: boolean;
  open: () => void;
}

function Row({ site, row, isCurrent, open }: RowProps) {
  return (
    <li
      aria-current={isCurrent || undefined}
      className={`flex flex-wrap items-center gap-x-2 gap-y-1 border-l-4 py-1 pl-2 ${isCurrent ? 'border-primary bg-base-200/60' : 'border-transparent'}`}
    >
      <span className="min-w-0 flex-1">
        <PageName site={site} page={row.page} />
        {row.pages > 1 && ` and ${count(row.pages - 1, 'other page')}`} {row.pages > 1 ? 'lead' : 'leads'} to{' '}
        <span className="font-semibold wrap-anywhere">{row.to}</span>{' '}
        <span className="text-secondary">
          · {row.why}
          {row.times > 1 ? `, ${number(row.times)} times` : ''}
          {row.around > 0 && <Around site={site} row={row} />}
        </span>
      </span>
      {row.repair && isOne(row) && (
        <MendButtons repair={row.repair} of={`the link on ${row.page.title} to ${row.to}`} showKeys={isCurrent} />
      )}
      {row.repair && !isOne(row) && (
        <button type="button" className="btn btn-xs btn-ghost border-base-300" onClick={open}>
          {isCurrent && (
            <span aria-hidden="true" className="kbd kbd-xs">
              F
            </span>
          )}
          Mend all {number(row.pages)} pages … <span className="sr-only">: links to {row.to}</span>
        </button>
      )}
    </li>
  );
}

/** What stands around the text of many pages is in a template, and is changed there. */
function Around({ site, row }: { site: number; row: Schema['FaultRow'] }) {
  const where = row.only_boilerplate ? ', from' : '; also from';
  return (
    <>
      {where} around the text
      {row.around > 1 ? ` of ${number(row.around)} pages` : ''}
      {row.around_page && (!row.only_boilerplate || row.around > 1) && (
        <>
          , such as <PageName site={site} page={row.around_page} />
        </>
      )}
      : change it in {row.around > 1 ? 'the template that they share' : 'the template'}
    </>
  );
}
