import { useQuery } from '@tanstack/react-query';
import { type KeyboardEvent, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { SentenceText } from '../../parts/SentenceText.tsx';
import type { Bench } from './deskState.ts';
import { OwnWording } from './OwnWording.tsx';
import type { Opening } from './opening.ts';
import { TargetChoice } from './TargetChoice.tsx';
import { around, type Taking, type Words } from './useDesk.ts';
import { WordChoice } from './WordChoice.tsx';

interface Props {
  site: number;
  opening: Opening;
  bench: Bench;
  take: (taking: Taking) => void;
  close: () => void;
}

/** Under an opening: other words of its sentence or another place, another target, or another wording. */
export function Workbench({ site, opening, bench, take, close }: Props) {
  const [words, setWords] = useState<Words>({ start: opening.words_start, end: opening.words_end });
  const query = useQuery(around(site, opening.source, words, opening.target));
  const found = query.data;
  if (query.isError) {
    return (
      <p role="alert" className="mt-2 border-t border-base-300 pt-1.5">
        {query.error.message}
      </p>
    );
  }
  if (!found) {
    return <p className="mt-2 border-t border-base-300 pt-1.5 text-secondary">Looking at the sentence …</p>;
  }
  const taking = (target: number): Taking => ({
    source: opening.source,
    target,
    version: found.version,
    start: found.words_start,
    end: found.words_end,
    anchor: found.sentence.anchor,
  });
  const press = (event: KeyboardEvent<HTMLDivElement>) => {
    const isTyping = event.target instanceof HTMLElement && event.target.matches('input, textarea');
    if (event.key === 'Escape') {
      close();
    } else if (bench === 'words' && event.key === 't' && !isTyping && !found.refusal) {
      take(taking(opening.target));
    } else {
      return;
    }
    // Not the opening as it was found.
    event.stopPropagation();
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys are those of what stands inside
    <div
      className="mt-2 border-t border-base-300 pt-1.5 text-[0.8125rem]"
      data-testid={`bench-${bench}`}
      onKeyDown={press}
    >
      {bench === 'words' && (
        <OtherWords
          found={found}
          choose={(start, end) => setWords({ start, end })}
          take={() => take(taking(opening.target))}
        />
      )}
      {bench === 'target' && (
        <TargetChoice
          site={site}
          targets={found.targets.filter(({ page }) => page.number !== opening.target)}
          source={opening.source}
          choose={(page) => take(taking(page.number))}
          verb={`Take “${found.sentence.anchor}” to`}
        />
      )}
      {bench === 'wording' && (
        <OwnWording
          sentence={found.sentence}
          take={(wording) => take({ ...taking(opening.target), wording })}
          close={close}
        />
      )}
    </div>
  );
}

interface OtherWordsProps {
  found: Schema['Around'];
  choose: (start: number, end: number) => void;
  take: () => void;
}

function OtherWords({ found, choose, take }: OtherWordsProps) {
  return (
    <>
      <WordChoice words={found.words} choose={choose} />
      <p className="mt-1 flex items-center gap-2" role="status">
        <span className="min-w-0 flex-1">
          {found.refusal ? (
            <span className="font-semibold text-accent">{found.refusal}</span>
          ) : (
            <>
              On “<b>{found.sentence.anchor}</b>”
              {found.opening ? `, fit ${Math.round(found.opening.fit)}` : ', words of your own choice'}
            </>
          )}
        </span>
        <button type="button" className="btn btn-xs btn-primary" disabled={Boolean(found.refusal)} onClick={take}>
          Take on these words
        </button>
      </p>
      {found.places.length > 0 && (
        <>
          <p className="mt-2 text-xs font-semibold text-secondary">Other places on this page that name it</p>
          <ul>
            {found.places.map((place) => (
              <li key={place.words_start} className="border-b border-base-300/60 py-1">
                <button
                  type="button"
                  className="flex w-full gap-2 rounded px-1 text-left hover:bg-base-200"
                  aria-label={`Move to “${place.sentence.anchor}”, fit ${Math.round(place.fit)}`}
                  onClick={() => choose(place.words_start, place.words_end)}
                >
                  <span className="min-w-0 flex-1">
                    <SentenceText sentence={place.sentence} carries="could" />
                  </span>
                  <span className="figures font-semibold">{Math.round(place.fit)}</span>
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
