import { useEffect, useId, useRef } from 'react';
import { Check } from '../../parts/Check.tsx';
import { TargetField } from '../../parts/TargetField.tsx';
import type { Draft } from './ruleDraft.ts';
import { Checks } from './ruleFields.tsx';

interface Props {
  site: number;
  draft: Draft;
  /** What the target is called. */
  leads: string;
  change: (part: Partial<Draft>, leads?: string) => void;
  isNew: boolean;
}

/** The phrases of a rule and where they lead. */
export function RulePhrases({ site, draft, leads, change, isNew }: Props) {
  const phrases = useId();
  const first = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    if (isNew) {
      first.current?.focus();
    }
  }, [isNew]);
  return (
    <>
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
    </>
  );
}
