import { useEffect, useRef } from 'react';
import { Depth } from '../../parts/Depth.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { FitBar, FitReasons } from './FitBar.tsx';
import type { Opening } from './useDesk.ts';

interface Props {
  site: number;
  opening: Opening;
  /** The small number that marks it in the text; null for openings on other pages. */
  number: number | null;
  isCurrent: boolean;
  choose: () => void;
  decide: (how: 'take' | 'pass') => void;
  showsReasons: boolean;
  toggleReasons: () => void;
}

export function OpeningCard(props: Props) {
  const { site, opening, number, isCurrent, choose, decide, showsReasons, toggleReasons } = props;
  const card = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (isCurrent) {
      card.current?.scrollIntoView({ block: 'nearest' });
    }
  }, [isCurrent]);
  return (
    <li
      ref={card}
      aria-current={isCurrent}
      data-testid="opening"
      className={`rounded-box border bg-base-100 p-2 ${isCurrent ? 'border-primary ring-1 ring-primary' : 'border-base-300'}`}
    >
      <div className="flex items-center gap-2">
        {number !== null && (
          <button
            type="button"
            className="figures rounded bg-depth-0 px-1.5 text-xs font-semibold"
            aria-label={`Show opening ${number} in the text`}
            onClick={choose}
          >
            {number}
          </button>
        )}
        <span className="min-w-0 flex-1 truncate">
          <PageName site={site} page={opening.page} />
        </span>
        <Depth depth={opening.page.depth} />
      </div>
      <p className="my-1.5">
        <SentenceText sentence={opening.sentence} carries="could" />
      </p>
      <div className="flex items-center gap-2">
        <FitBar opening={opening} isOpen={showsReasons} toggle={toggleReasons} />
        <span className="ml-auto flex gap-1.5">
          <button
            type="button"
            className="btn btn-xs btn-ghost border-base-300"
            aria-label={`Pass “${opening.sentence.anchor}”, ${opening.page.title}`}
            onClick={() => decide('pass')}
          >
            Pass
          </button>
          <button
            type="button"
            className="btn btn-xs btn-primary"
            aria-label={`Take “${opening.sentence.anchor}”, ${opening.page.title}`}
            onClick={() => decide('take')}
          >
            Take
          </button>
        </span>
      </div>
      {showsReasons && <FitReasons opening={opening} />}
    </li>
  );
}
