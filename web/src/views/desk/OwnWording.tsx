import { useId, useState } from 'react';
import type { Schema } from '../../api/client.ts';

interface Props {
  sentence: Schema['Sentence'];
  take: (wording: Schema['WordingWish']) => void;
  close: () => void;
}

/** The sentence as the editor would have it: a change of wording, shown as one. */
export function OwnWording({ sentence, take, close }: Props) {
  const id = useId();
  const was = `${sentence.before}${sentence.anchor}${sentence.after}`;
  const [text, setText] = useState(was);
  const [anchor, setAnchor] = useState(sentence.anchor);
  const at = nearest(text, anchor.trim(), sentence.before.length);
  const isSame = text.trim() === was.trim();
  const problem =
    anchor.trim() === ''
      ? 'Write which words carry the link.'
      : at < 0
        ? 'These words do not stand in the sentence.'
        : undefined;
  const submit = () => {
    if (at >= 0 && !isSame) {
      const end = at + anchor.trim().length;
      take({ before: text.slice(0, at), anchor: text.slice(at, end), after: text.slice(end) });
    }
  };
  return (
    <form
      aria-label="Edit the sentence"
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      <p className="mb-1 font-semibold text-accent">This changes the author’s words, not only a link.</p>
      <label htmlFor={`${id}-text`} className="mb-0.5 block text-xs font-semibold text-secondary">
        The sentence
      </label>
      <textarea
        id={`${id}-text`}
        // biome-ignore lint/a11y/noAutofocus: the editor asked for this field by a key
        autoFocus
        className="textarea textarea-sm w-full font-serif text-[0.95rem]"
        rows={4}
        maxLength={1900}
        value={text}
        onChange={(event) => setText(event.target.value.replaceAll(/\s*\n\s*/g, ' '))}
      />
      <label htmlFor={`${id}-anchor`} className="mt-1 mb-0.5 block text-xs font-semibold text-secondary">
        Words that carry the link
      </label>
      <input
        id={`${id}-anchor`}
        type="text"
        className="input input-sm w-full"
        aria-invalid={problem !== undefined}
        aria-describedby={`${id}-problem`}
        value={anchor}
        onChange={(event) => setAnchor(event.target.value)}
      />
      <p id={`${id}-problem`} className="min-h-5 text-xs font-semibold text-accent">
        {problem}
      </p>
      {!isSame && (
        <p className="mb-1 font-serif text-[0.95rem]">
          <span className="sr-only">What changes: </span>
          {changes(was, text).map(({ kind, words }, part) =>
            kind === 'same' ? (
              // biome-ignore lint/suspicious/noArrayIndexKey: the order of the words is their only identity
              <span key={part}>{words}</span>
            ) : kind === 'gone' ? (
              // biome-ignore lint/suspicious/noArrayIndexKey: as above
              <del key={part} className="text-accent">
                {words}
              </del>
            ) : (
              // biome-ignore lint/suspicious/noArrayIndexKey: as above
              <ins key={part} className="bg-depth-0 text-depth-ink-0">
                {words}
              </ins>
            ),
          )}
        </p>
      )}
      <span className="flex justify-end gap-1.5">
        <button type="button" className="btn btn-xs btn-ghost border-base-300" onClick={close}>
          Leave it as it is
        </button>
        <button type="submit" className="btn btn-xs btn-primary" disabled={problem !== undefined || isSame}>
          Take with this wording
        </button>
      </span>
    </form>
  );
}

/** Where words stand in a text: of several places the one nearest to where they stood. */
function nearest(text: string, words: string, near: number): number {
  let best = -1;
  for (let at = text.indexOf(words); words !== '' && at >= 0; at = text.indexOf(words, at + 1)) {
    if (best < 0 || Math.abs(at - near) < Math.abs(best - near)) {
      best = at;
    }
  }
  return best;
}

interface Change {
  kind: 'same' | 'gone' | 'new';
  words: string;
}

/** Word by word what goes and what comes: the longest row of words that both have stays. */
function changes(was: string, is: string): Change[] {
  const [old, fresh] = [was.split(/(?<=\s)/), is.split(/(?<=\s)/)];
  const longest = old.map(() => fresh.map(() => 0).concat(0)).concat([fresh.map(() => 0).concat(0)]);
  for (let i = old.length - 1; i >= 0; i--) {
    for (let j = fresh.length - 1; j >= 0; j--) {
      const row = longest[i];
      if (row) {
        row[j] =
          old[i]?.trim() === fresh[j]?.trim()
            ? (longest[i + 1]?.[j + 1] ?? 0) + 1
            : Math.max(longest[i + 1]?.[j] ?? 0, row[j + 1] ?? 0);
      }
    }
  }
  const parts: Change[] = [];
  let [i, j] = [0, 0];
  while (i < old.length || j < fresh.length) {
    if (i < old.length && j < fresh.length && old[i]?.trim() === fresh[j]?.trim()) {
      parts.push({ kind: 'same', words: fresh[j] ?? '' });
      i++;
      j++;
    } else if (j >= fresh.length || (i < old.length && (longest[i + 1]?.[j] ?? 0) >= (longest[i]?.[j + 1] ?? 0))) {
      parts.push({ kind: 'gone', words: old[i] ?? '' });
      i++;
    } else {
      parts.push({ kind: 'new', words: fresh[j] ?? '' });
      j++;
    }
  }
  return parts;
}
