import type { Schema } from '../api/client.ts';
import { useDecisions } from '../decisions/context.ts';

/** Mends a link, by pointing it to the page that it was likely meant for or by taking it off its words. */
export function useMend() {
  const { decide, hidden } = useDecisions();
  const mend = (repair: Schema['Repair'], how: 'point' | 'take-off') => {
    const target = how === 'point' ? repair.likeliest : undefined;
    if (how === 'point' && !target) {
      return;
    }
    const { source, version, address, fragment } = repair;
    decide(
      { kind: 'repair', source, version, address, fragment: fragment ?? null, target: target?.number ?? null },
      address,
      [mendKey(repair)],
    );
  };
  const isMended = (repair: Schema['Repair'] | null | undefined) => Boolean(repair && hidden.has(mendKey(repair)));
  return { mend, isMended };
}

function mendKey(repair: Schema['Repair']): string {
  return `mend ${repair.source} ${repair.address}#${repair.fragment ?? ''}`;
}

interface Props {
  repair: Schema['Repair'];
  /** What the link is, for whoever hears the buttons out of their place. */
  of: string;
  showKeys?: boolean;
}

export function MendButtons({ repair, of, showKeys = false }: Props) {
  const { mend } = useMend();
  return (
    <span className="flex flex-wrap gap-2">
      {repair.likeliest && (
        <button
          type="button"
          className="btn btn-xs btn-ghost border-base-300"
          title={repair.likeliest.path}
          onClick={() => mend(repair, 'point')}
        >
          {showKeys && <Key name="F" />} Point to “{repair.likeliest.title}” <Of what={of} />
        </button>
      )}
      <button type="button" className="btn btn-xs btn-ghost border-base-300" onClick={() => mend(repair, 'take-off')}>
        {showKeys && <Key name="X" />} Take the link off <Of what={of} />
      </button>
    </span>
  );
}

function Key({ name }: { name: string }) {
  return (
    <span aria-hidden="true" className="kbd kbd-xs">
      {name}
    </span>
  );
}

/** Only for whoever hears the buttons out of their place. */
function Of({ what }: { what: string }) {
  return <span className="sr-only">: {what}</span>;
}
