import { useQuery } from '@tanstack/react-query';
import type { Opening } from './opening.ts';
import { reasonsOf } from './useDesk.ts';

interface Props {
  opening: Opening;
  isOpen: boolean;
  toggle: () => void;
}

/** Five cells, one for each part of the fit, filled to that part's strength. A press opens the reasons. */
export function FitBar({ opening, isOpen, toggle }: Props) {
  const fit = Math.round(opening.fit);
  const parts = opening.parts.map((part) => `${part.part} ${Math.round(part.strength * 100)} %`).join(', ');
  return (
    <button
      type="button"
      className="figures flex items-end gap-1.5 rounded px-1 hover:bg-base-200"
      aria-expanded={isOpen}
      aria-label={`Fit ${fit} of 100: ${parts}. Reasons`}
      title="Why this fit?"
      onClick={toggle}
    >
      <FitCells opening={opening} />
      <span className="text-base font-semibold leading-none">{fit}</span>
    </button>
  );
}

/** The cells alone, for where the reasons are not at hand. */
export function FitCells({ opening }: { opening: Opening }) {
  return (
    <span className="flex items-end gap-0.5" aria-hidden="true">
      {opening.parts.map((part) => (
        <span key={part.part} className="relative h-5 w-2 border border-base-300 bg-base-200">
          <span className="absolute inset-x-0 bottom-0 bg-depth-3" style={{ height: `${part.strength * 100}%` }} />
        </span>
      ))}
    </span>
  );
}

/** The reasons in words, part by part. */
export function FitReasons({ site, opening }: { site: number; opening: Opening }) {
  const reasons = useQuery(reasonsOf(site, opening));
  const wordsOf = (part: string) => reasons.data?.find((row) => row.part === part)?.reasons.join(' ') ?? '…';
  return (
    <div className="mt-2 border-t border-base-300 pt-1.5 text-[0.8125rem]" data-testid="reasons">
      {reasons.isError ? (
        <p role="alert">{reasons.error.message}</p>
      ) : (
        <dl>
          {opening.parts.map((part) => (
            <div key={part.part} className="mb-1 grid grid-cols-[4.2rem_1fr_auto] gap-2">
              <dt className="font-semibold">{part.part}</dt>
              <dd>{wordsOf(part.part)}</dd>
              <dd className="figures whitespace-nowrap text-secondary">{Math.round(part.strength * 100)} %</dd>
            </div>
          ))}
        </dl>
      )}
      <p className="text-secondary">
        Learnt from links that authors made on other sites, and from what is taken and passed here.
      </p>
    </div>
  );
}
