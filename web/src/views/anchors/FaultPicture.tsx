import { count, number } from '../../parts/words.ts';
import { useAnchorFaults } from './useAnchors.ts';
import { FAULTS, type Fault } from './wish.ts';

interface Props {
  site: number;
  fault: Fault | null;
  set: (fault: Fault | null) => void;
}

/** How much is wrong with what the links say, as bars; each shows its texts alone. */
export function FaultPicture({ site, fault, set }: Props) {
  const { data } = useAnchorFaults(site);
  const most = Math.max(1, ...(data?.faults ?? []).map((one) => one.links));
  return (
    <section aria-label="What is wrong" className="flex shrink-0 flex-col gap-1 overflow-y-auto px-4 py-3 lg:w-64">
      <p className="figures mb-1">
        {data && (
          <>
            <strong>{count(data.texts, 'text')}</strong> on {count(data.links, 'link')} in content
            {data.texts_to_come ? `; the links of ${count(data.texts_to_come, 'page')} are still to come` : ''}.
          </>
        )}
      </p>
      <h2 className="font-semibold">What is wrong</h2>
      <ul>
        {data?.faults.map(({ fault: kind, links, texts }) => (
          <li key={kind}>
            <button
              type="button"
              aria-pressed={fault === kind}
              disabled={texts === 0 && fault !== kind}
              className={`w-full rounded px-1.5 py-1 text-left ${fault === kind ? 'bg-base-300 font-semibold' : 'enabled:hover:bg-base-200'} disabled:text-secondary`}
              title={`${count(texts, 'text')} on ${count(links, 'link')}`}
              onClick={() => set(fault === kind ? null : kind)}
            >
              <span className="flex items-baseline gap-2">
                <span className="min-w-0 flex-1">{FAULTS[kind]}</span>
                <span className="figures">{number(texts)}</span>
              </span>
              <span className="mt-0.5 block h-1.5 rounded bg-base-300/60" aria-hidden="true">
                <span
                  className="block h-1.5 rounded bg-secondary"
                  style={{ width: `${links === 0 ? 0 : Math.max(1, (100 * links) / most)}%` }}
                />
              </span>
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-xs text-secondary">Figures are texts; bars are their links.</p>
    </section>
  );
}
