import { memo, useEffect, useRef } from 'react';
import { Depth } from '../../parts/Depth.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { count } from '../../parts/words.ts';
import type { Bench, Under } from './deskState.ts';
import { FitBar, FitReasons } from './FitBar.tsx';
import type { Opening } from './opening.ts';
import { PassMenu } from './PassMenu.tsx';
import type { Scope, Taking } from './useDesk.ts';
import { Workbench } from './Workbench.tsx';

/** What can be done with an opening. */
export interface Acts {
  choose: (opening: Opening) => void;
  take: (opening: Opening) => void;
  takeByHand: (taking: Taking) => void;
  pass: (opening: Opening, scope: Scope) => void;
  /** Opens or closes something under it. */
  toggle: (opening: Opening, under: Under) => void;
  close: () => void;
  /** The mouse is on it, or left it. */
  point: (opening: Opening | undefined) => void;
}

interface Props {
  site: number;
  opening: Opening;
  /** The small number that marks it in the text; null for openings on other pages. */
  number: number | null;
  /** The title of the page to which it leads. */
  target: string;
  isCurrent: boolean;
  isPointedAt: boolean;
  acts: Acts;
  under: Under | undefined;
}

const BENCHES: [Bench, string][] = [
  ['words', 'W'],
  ['target', 'G'],
  ['wording', 'E'],
];

const NAMES: Record<Bench, string> = { words: 'Other words', target: 'Other target', wording: 'Edit wording' };

export const OpeningCard = memo(function OpeningCard(props: Props) {
  const { site, opening, number, target, isCurrent, isPointedAt, acts, under } = props;
  const card = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (isCurrent) {
      card.current?.scrollIntoView({ block: 'nearest' });
    }
  }, [isCurrent]);
  const about = `“${opening.sentence.anchor}”, ${opening.page.title}`;
  const frame = isCurrent ? 'border-primary ring-1 ring-primary' : isPointedAt ? 'border-primary' : 'border-base-300';
  return (
    <li
      ref={card}
      aria-current={isCurrent}
      data-testid="opening"
      className={`rounded-box border bg-base-100 p-2 ${frame}`}
      onMouseEnter={() => acts.point(opening)}
      onMouseLeave={() => acts.point(undefined)}
    >
      <div className="flex items-center gap-2">
        {number !== null && (
          <button
            type="button"
            className="figures rounded bg-depth-0 px-1.5 text-xs font-semibold text-depth-ink-0"
            aria-label={`Show opening ${number} in the text`}
            onClick={() => acts.choose(opening)}
          >
            {number}
          </button>
        )}
        <span className="title-link min-w-0 flex-1 truncate">
          <PageName site={site} page={opening.page} />
        </span>
        <Depth depth={opening.page.depth} />
      </div>
      {opening.place && (
        <p className="truncate text-xs text-secondary" title={`Leads to #${opening.place.id} on ${target}`}>
          to the place “{opening.place.text}”
        </p>
      )}
      <p className="my-1.5">
        <SentenceText sentence={opening.sentence} carries="could" />
      </p>
      {opening.also.length > 0 && (
        <details className="mb-1.5 text-xs">
          <summary className="cursor-pointer leading-6">
            The same sentence stands on {count(opening.also.length, 'other page')}
          </summary>
          <ul className="max-h-40 overflow-y-auto pl-3">
            {opening.also.map((place) => (
              <li key={place.source}>
                <PageName site={site} page={place.page} />
              </li>
            ))}
          </ul>
        </details>
      )}
      <div className="flex items-center gap-1.5">
        <FitBar opening={opening} isOpen={under === 'reasons'} toggle={() => acts.toggle(opening, 'reasons')} />
        <span className="ml-auto flex gap-1.5">
          <button
            type="button"
            className="btn btn-xs btn-ghost border-base-300"
            aria-expanded={under === 'pass'}
            aria-label={`Pass ${about}`}
            title="Pass all places on this page (P), or choose how much (Shift P)"
            onClick={() => acts.toggle(opening, 'pass')}
          >
            Pass
          </button>
          <button
            type="button"
            className="btn btn-xs btn-primary"
            aria-label={`Take ${about}`}
            title="Take (T)"
            onClick={() => acts.take(opening)}
          >
            Take{opening.also.length > 0 && ` all ${opening.also.length + 1}`}
          </button>
        </span>
      </div>
      {isCurrent && (
        <div className="mt-1.5 flex gap-1.5">
          {BENCHES.map(([bench, key]) => (
            <button
              key={bench}
              type="button"
              className={`btn btn-xs flex-1 whitespace-nowrap px-1 font-normal ${under === bench ? 'btn-primary btn-outline' : 'btn-ghost border-base-300'}`}
              aria-expanded={under === bench}
              aria-label={`${NAMES[bench]}: ${about}`}
              title={`${NAMES[bench]} (${key})`}
              onClick={() => acts.toggle(opening, bench)}
            >
              {NAMES[bench]}
            </button>
          ))}
        </div>
      )}
      {under === 'reasons' && <FitReasons site={site} opening={opening} />}
      {under === 'pass' && <PassMenu target={target} pass={(scope) => acts.pass(opening, scope)} close={acts.close} />}
      {under && under !== 'reasons' && under !== 'pass' && (
        <Workbench
          // Each begins with the words as they were found.
          key={under}
          site={site}
          opening={opening}
          bench={under}
          take={acts.takeByHand}
          close={acts.close}
        />
      )}
    </li>
  );
});
