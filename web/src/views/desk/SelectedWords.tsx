import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { TargetChoice } from './TargetChoice.tsx';
import { around, type Taking, type Words } from './useDesk.ts';
import { WordChoice } from './WordChoice.tsx';

interface Props {
  site: number;
  page: number;
  selected: Words;
  take: (taking: Taking) => void;
  close: () => void;
}

/** Targets for words, or a picture, that were selected in the text. */
export function SelectedWords({ site, page, selected, take, close }: Props) {
  const [words, setWords] = useState(selected);
  const query = useQuery(around(site, page, words, undefined));
  const found = query.data;
  const picture = 'picture' in words ? words.picture : undefined;
  const what = picture === undefined ? 'words' : 'picture';
  return (
    <section
      onKeyDown={(event) => event.key === 'Escape' && close()}
      aria-label={`Selected ${what}`}
      data-testid="selected-words"
      className="mt-3 rounded-box border border-primary bg-base-100 p-2 text-[0.8125rem] ring-1 ring-primary"
    >
      <header className="flex items-center">
        <h3 className="font-semibold">Where should {picture === undefined ? 'these words' : 'this picture'} lead?</h3>
        <button type="button" className="btn btn-xs btn-ghost ml-auto" onClick={close}>
          Close
        </button>
      </header>
      {query.isError ? (
        <p role="alert" className="py-1 font-semibold text-accent">
          {query.error.message}
        </p>
      ) : found ? (
        <>
          <p className="my-1">
            <SentenceText sentence={found.sentence} carries="could" />
          </p>
          {picture === undefined && (
            <details>
              <summary className="cursor-pointer text-secondary leading-6">More or fewer words</summary>
              <WordChoice words={found.words} choose={(start, end) => setWords({ start, end })} />
            </details>
          )}
          {found.refusal ? (
            <p role="alert" className="py-1 font-semibold text-accent">
              {found.refusal}
            </p>
          ) : (
            <TargetChoice
              site={site}
              targets={found.targets}
              source={page}
              what={what}
              verb={`Take ${picture === undefined ? '' : 'the picture '}“${found.sentence.anchor}” to`}
              choose={(target) =>
                take({
                  source: page,
                  target: target.number,
                  version: found.version,
                  start: found.words_start,
                  end: found.words_end,
                  anchor: found.sentence.anchor,
                  ...(picture === undefined ? {} : { picture }),
                })
              }
            />
          )}
        </>
      ) : (
        <p className="py-1 text-secondary">Looking for targets …</p>
      )}
    </section>
  );
}
