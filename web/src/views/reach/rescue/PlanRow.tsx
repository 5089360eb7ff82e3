import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Depth } from '../../../parts/Depth.tsx';
import { PageName } from '../../../parts/PageName.tsx';
import { SentenceText } from '../../../parts/SentenceText.tsx';
import type { Opening } from '../../desk/opening.ts';
import { around } from '../../desk/useDesk.ts';
import type { KeptRow, RescuePlan } from './useRescue.ts';

interface Props {
  site: number;
  row: RescuePlan['rows'][number];
  /** Keeps the link in every plan, on these words; or leaves it to the planner again. */
  keep: (words: KeptRow | undefined) => void;
  pass: () => void;
}

function keptOf({ source, target, words_start, words_end }: Opening): KeptRow {
  return { source, target, words_start, words_end };
}

/** A link of the plan, to be passed, kept or put on other words. */
export function PlanRow({ site, row, keep, pass }: Props) {
  const { opening, kept } = row;
  const [choosesWords, setChoosesWords] = useState(false);
  const about = `“${opening.sentence.anchor}”, ${opening.page.title}`;
  return (
    <div className="py-1" data-testid="plan-row">
      <p>
        <SentenceText sentence={opening.sentence} carries="could" />
      </p>
      <div className="flex items-center gap-1.5">
        <span className="text-secondary" aria-hidden="true">
          →
        </span>
        <span className="sr-only">leads to</span>
        <span className="title-link min-w-0 truncate">
          <PageName site={site} page={opening.page} />
        </span>
        <Depth depth={opening.page.depth} />
        <span className="figures ml-auto font-semibold" title="Fit">
          {Math.round(opening.fit)}
        </span>
      </div>
      <div className="flex items-center gap-1">
        <label className="flex items-center gap-1.5 text-xs" title="Every plan has this link">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            aria-label={`Keep ${about}`}
            checked={kept}
            onChange={() => keep(kept ? undefined : keptOf(opening))}
          />
          keep
        </label>
        <span className="ml-auto flex">
          <button
            type="button"
            className="btn btn-xs btn-ghost font-normal"
            aria-expanded={choosesWords}
            aria-label={`Other words: ${about}`}
            onClick={() => setChoosesWords(!choosesWords)}
          >
            Other words
          </button>
          <button
            type="button"
            className="btn btn-xs btn-ghost font-normal"
            aria-label={`Pass ${about}`}
            title="Set aside for good; the plan is made anew without it"
            onClick={pass}
          >
            Pass
          </button>
        </span>
      </div>
      {choosesWords && (
        <OtherWords
          site={site}
          opening={opening}
          choose={(other) => {
            setChoosesWords(false);
            keep(keptOf(other));
          }}
        />
      )}
    </div>
  );
}

/** Other places on the page that name the same target. */
function OtherWords(props: { site: number; opening: Opening; choose: (opening: Opening) => void }) {
  const { site, opening, choose } = props;
  const words = { start: opening.words_start, end: opening.words_end };
  const query = useQuery(around(site, opening.source, words, opening.target));
  if (query.isError) {
    return (
      <p role="alert" className="text-accent">
        {query.error.message}
      </p>
    );
  }
  if (!query.data) {
    return <p className="text-secondary">Looking …</p>;
  }
  if (query.data.places.length === 0) {
    return <p className="text-secondary">The page names it nowhere else.</p>;
  }
  return (
    <ul className="mt-1 border-l-4 border-depth-1 pl-2">
      {query.data.places.map((place) => (
        <li key={place.words_start}>
          <button
            type="button"
            className="w-full rounded px-1 py-0.5 text-left hover:bg-base-200"
            onClick={() => choose(place)}
          >
            <SentenceText sentence={place.sentence} carries="could" />{' '}
            <span className="figures font-semibold">{Math.round(place.fit)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
