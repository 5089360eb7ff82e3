import { useEffect, useRef } from 'react';
import type { Schema } from '../../api/client.ts';

interface Props {
  words: Schema['SentenceWord'][];
  choose: (start: number, end: number) => void;
}

/**
 * The words of a sentence, to press: one outside of the chosen ones widens to it; the first or the last of them is left
 * out; one in the midst becomes the last.
 */
export function WordChoice({ words, choose }: Props) {
  const chosen = words.flatMap((word, at) => (word.chosen ? [at] : []));
  const [first, last] = [chosen[0] ?? -1, chosen.at(-1) ?? -1];
  const firstChosen = useRef<HTMLButtonElement>(null);
  useEffect(() => firstChosen.current?.focus(), []);
  const press = (at: number) => {
    let [from, to] = [Math.min(first < 0 ? at : first, at), Math.max(last, at)];
    if (at === first && first < last) {
      from = first + 1;
    } else if (at === last && first < last) {
      to = last - 1;
    } else if (at > first && at < last) {
      to = at;
    }
    const [start, end] = [words[from]?.start, words[to]?.end];
    if (start !== undefined && end !== undefined) {
      choose(start, end);
    }
  };
  return (
    <fieldset className="font-serif text-[0.95rem] leading-7">
      <legend className="sr-only">Words that carry the link: press words to widen or narrow them</legend>
      {words.map((word, at) => (
        <span key={word.start}>
          {word.gap}
          <button
            ref={at === first ? firstChosen : null}
            type="button"
            aria-pressed={word.chosen}
            className={`rounded-sm px-0.5 hover:bg-depth-1 hover:text-depth-ink-1 ${
              word.chosen ? 'bg-depth-0 font-semibold text-depth-ink-0 underline decoration-dotted' : ''
            }`}
            onClick={() => press(at)}
          >
            {word.text}
          </button>
        </span>
      ))}
    </fieldset>
  );
}
