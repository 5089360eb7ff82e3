import { useEffect, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { Check } from '../../parts/Check.tsx';
import { KINDS, number } from '../../parts/words.ts';
import { type Kind, MOST_BETWEEN, PARTS, type Part, phrasesOf, type Question } from './question.ts';

interface Props {
  question: Question;
  set: (change: Partial<Question>) => void;
  counts: readonly Schema['PhraseCounted'][] | undefined;
}

/** The pause in typing after which the site is looked through, in milliseconds. */
const PAUSE = 120;

const GAPS = Array.from({ length: MOST_BETWEEN + 1 }, (_, gap) => gap);

/** What is looked for, and where. */
export function PhraseForm({ question, set, counts }: Props) {
  return (
    <form
      aria-label="What is looked for"
      className="flex min-w-0 shrink-0 flex-col gap-4 overflow-y-auto px-4 py-3 lg:w-[22rem]"
      onSubmit={(event) => event.preventDefault()}
    >
      <PhraseField question={question} set={set} />
      <Counts question={question} set={set} counts={counts} />
      <fieldset className="flex flex-col gap-1.5">
        <legend className="mb-1 font-semibold">What counts as one</legend>
        <Check
          label="other forms of the words too"
          isOn={!question.exact && !question.expressions}
          isOff={question.expressions}
          set={(isOn) => set({ exact: !isOn })}
        />
        <Check
          label="only in these capitals"
          isOn={question.keepsCase}
          isOff={question.expressions}
          set={(keepsCase) => set({ keepsCase })}
        />
        <Check
          label="only with these accents"
          isOn={question.keepsAccents}
          isOff={question.expressions}
          set={(keepsAccents) => set({ keepsAccents })}
        />
        <label className="flex items-center gap-2">
          <select
            className="select select-sm w-auto"
            value={question.gap}
            disabled={question.expressions}
            onChange={(event) => set({ gap: Number(event.target.value) })}
          >
            {GAPS.map((gap) => (
              <option key={gap} value={gap}>
                {gap === 0 ? 'no' : `up to ${gap}`}
              </option>
            ))}
          </select>
          other words in between
        </label>
        <Check
          label="the phrases are regular expressions"
          isOn={question.expressions}
          set={(expressions) => set({ expressions })}
        />
      </fieldset>
      <fieldset className="grid grid-cols-2 gap-x-3 gap-y-1.5">
        <legend className="mb-1 font-semibold">In which parts of pages</legend>
        {(Object.keys(PARTS) as Part[]).map((part) => (
          <Check
            key={part}
            label={PARTS[part]}
            isOn={question.parts.length === 0 || question.parts.includes(part)}
            set={() => set({ parts: withPart(question.parts, part) })}
          />
        ))}
      </fieldset>
      <fieldset className="flex flex-col gap-1.5">
        <legend className="mb-1 font-semibold">On which pages</legend>
        <input
          type="search"
          className="input input-sm w-full"
          aria-label="Only pages with these words in title, address or category"
          placeholder="Title, address, category"
          value={question.on}
          onChange={(event) => set({ on: event.target.value })}
        />
        <select
          className="select select-sm w-full"
          aria-label="Kind of page"
          value={question.kind ?? ''}
          onChange={(event) => set({ kind: (event.target.value || null) as Kind | null })}
        >
          <option value="">pages of all kinds</option>
          {(Object.keys(KINDS) as Kind[]).map((kind) => (
            <option key={kind} value={kind}>
              {KINDS[kind]}s
            </option>
          ))}
        </select>
      </fieldset>
    </form>
  );
}

/** With one more or one less; none of them is as good as all. */
function withPart(parts: readonly Part[], part: Part): Part[] {
  const all = Object.keys(PARTS) as Part[];
  const before = parts.length === 0 ? all : parts;
  const after = all.filter((one) => (one === part ? !before.includes(one) : before.includes(one)));
  return after.length === all.length ? [] : after;
}

function PhraseField({ question, set }: Omit<Props, 'counts'>) {
  const [typed, setTyped] = useState(question.phrases);
  useEffect(() => setTyped(question.phrases), [question.phrases]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only typing sets off the pause
  useEffect(() => {
    const timer = window.setTimeout(() => typed !== question.phrases && set({ phrases: typed, only: null }), PAUSE);
    return () => window.clearTimeout(timer);
  }, [typed]);
  return (
    <label className="flex flex-col gap-1">
      <span className="font-semibold">Phrases</span>
      <textarea
        className={`textarea min-h-20 w-full resize-y ${question.expressions ? 'font-mono text-sm' : 'font-serif text-base'}`}
        rows={3}
        // biome-ignore lint/a11y/noAutofocus: whoever comes here wants to type
        autoFocus
        spellCheck={false}
        placeholder="One phrase a line"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
    </label>
  );
}

/** How often each of several phrases stands there; a press shows one alone. */
function Counts({ question, set, counts }: Props) {
  if (!counts || counts.length < 2 || phrasesOf(question).length !== counts.length) {
    return null;
  }
  return (
    <table className="figures w-full" aria-label="Mentions of each phrase">
      <thead>
        <tr className="text-right text-xs text-secondary">
          <th className="text-left font-normal">One alone</th>
          <th className="pl-3 font-normal">mentions</th>
          <th className="pl-3 font-normal">linked</th>
          <th className="pl-3 font-normal">pages</th>
        </tr>
      </thead>
      <tbody>
        {counts.map((one, at) => (
          <tr key={one.text} className={`text-right ${question.only === at ? 'bg-base-200 font-semibold' : ''}`}>
            <td className="max-w-0 w-full truncate text-left">
              <button
                type="button"
                aria-pressed={question.only === at}
                className="link-hover min-h-6 w-full truncate text-left text-primary"
                onClick={() => set({ only: question.only === at ? null : at })}
              >
                {one.text}
              </button>
            </td>
            <td className="pl-3">{number(one.mentions)}</td>
            <td className="pl-3">{number(one.linked)}</td>
            <td className="pl-3">{number(one.pages)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
