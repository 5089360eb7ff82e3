import { useEffect, useId, useRef } from 'react';
import { Check } from '../../parts/Check.tsx';
import { TargetField } from '../../parts/TargetField.tsx';
import { RuleHowOften } from './RuleHowOften.tsx';
import { RuleWhere } from './RuleWhere.tsx';
import { anyOf, BLOCK_NAMES, type Draft, often, where } from './ruleDraft.ts';
import { Checks, Count } from './ruleFields.tsx';

interface Props {
  site: number;
  draft: Draft;
  /** What the target is called. */
  leads: string;
  categories: readonly string[];
  change: (part: Partial<Draft>, leads?: string) => void;
  /** What pages are called that it names, and that one more is. */
  names: ReadonlyMap<number, string>;
  named: (page: number, title: string) => void;
  isNew: boolean;
}

/** A rule in sentences to fill in. */
export function RuleSentences({ site, draft, leads, categories, change, names, named, isNew }: Props) {
  const phrases = useId();
  const first = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    if (isNew) {
      first.current?.focus();
    }
  }, [isNew]);
  return (
    <div className="flex flex-col gap-3 px-4 py-3">
      <p className="font-serif text-lg leading-snug" data-testid="rule-in-words">
        Link <em className="font-semibold not-italic">{anyOf(draft.phrases)}</em> to{' '}
        <em className="font-semibold not-italic">{leads || '…'}</em>, at most {often(draft.per_page)}
        {where(draft) && `, ${where(draft)}`}.
      </p>
      <div>
        <label htmlFor={phrases} className="mb-1 block font-semibold">
          {draft.expressions
            ? 'Whenever one of these expressions fits'
            : 'Whenever one of these phrases stands in a page'}
        </label>
        <textarea
          id={phrases}
          ref={first}
          className={`textarea w-full ${draft.expressions ? 'font-mono' : ''}`}
          rows={Math.min(8, Math.max(2, draft.phrases.length + 1))}
          placeholder="One a line"
          spellCheck={!draft.expressions}
          value={draft.phrases.join('\n')}
          onChange={(event) => change({ phrases: event.target.value === '' ? [] : event.target.value.split('\n') })}
        />
        <Checks>
          <Check
            label="other forms of the words too"
            isOn={draft.forms && !draft.expressions}
            set={(forms) => change({ forms })}
            isOff={draft.expressions}
          />
          <Check label="only in these capitals" isOn={draft.keeps_case} set={(keeps_case) => change({ keeps_case })} />
          <Check
            label="only with these accents"
            isOn={draft.keeps_accents}
            set={(keeps_accents) => change({ keeps_accents })}
          />
          <Check
            label="as regular expressions"
            isOn={draft.expressions}
            set={(expressions) => change({ expressions })}
          />
        </Checks>
      </div>
      <div>
        <p className="mb-1 font-semibold">it leads to</p>
        {draft.target === undefined ? (
          <TargetField site={site} choose={(target, name) => change({ target }, name)} />
        ) : (
          <p className="flex items-center gap-2">
            <span className="min-w-0 truncate font-semibold text-primary">{leads}</span>
            <button
              type="button"
              className="btn btn-xs btn-ghost border-base-300"
              onClick={() => change({ target: undefined }, '')}
            >
              Lead elsewhere
            </button>
          </p>
        )}
      </div>
      <p className="figures leading-8">
        at most{' '}
        <Count label="Links on a page" value={draft.per_page} least={1} set={(per_page) => change({ per_page })} /> on a
        page,{' '}
        <Count
          label="Links on one phrase of a page"
          value={draft.per_phrase}
          least={1}
          set={(per_phrase) => change({ per_phrase })}
        />{' '}
        on the same phrase.
      </p>
      <fieldset>
        <legend className="mb-1 font-semibold">In paragraphs and lists, and also in</legend>
        <Checks>
          {BLOCK_NAMES.map(([block, name]) => (
            <Check key={block} label={name} isOn={draft[block]} set={(isOn) => change({ [block]: isOn })} />
          ))}
        </Checks>
      </fieldset>
      <fieldset>
        <legend className="mb-1 font-semibold">On pages that are new or changed, its links</legend>
        <div className="flex flex-wrap gap-x-5 gap-y-1">
          {[false, true].map((atOnce) => (
            <label key={String(atOnce)} className="flex items-center gap-2">
              <input
                type="radio"
                name="handling"
                className="radio radio-sm"
                checked={draft.at_once === atOnce}
                onChange={() => change({ at_once: atOnce })}
              />
              {atOnce ? 'go into the tray at once' : 'wait until you looked at them'}
            </label>
          ))}
        </div>
      </fieldset>
      <RuleWhere site={site} draft={draft} categories={categories} change={change} names={names} named={named} />
      <RuleHowOften draft={draft} change={change} />
    </div>
  );
}
