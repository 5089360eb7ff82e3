import { Check } from '../../parts/Check.tsx';
import { RuleHowOften } from './RuleHowOften.tsx';
import { RulePhrases } from './RulePhrases.tsx';
import { RuleTerms } from './RuleTerms.tsx';
import { RuleWhere } from './RuleWhere.tsx';
import { anyOf, BLOCK_NAMES, type Draft, often, type Taxonomy, USED_TERMS, where } from './ruleDraft.ts';
import { Checks, Count } from './ruleFields.tsx';

interface Props {
  site: number;
  draft: Draft;
  /** What the target is called. */
  leads: string;
  categories: readonly string[];
  taxonomies: readonly Taxonomy[];
  change: (part: Partial<Draft>, leads?: string) => void;
  /** What pages are called that it names, and that one more is. */
  names: ReadonlyMap<number, string>;
  named: (page: number, title: string) => void;
  isNew: boolean;
}

/** A rule in sentences to fill in. */
export function RuleSentences({ site, draft, leads, categories, taxonomies, change, names, named, isNew }: Props) {
  return (
    <div className="flex flex-col gap-3 px-4 py-3">
      <p className="font-serif text-lg leading-snug" data-testid="rule-in-words">
        Link <em className="font-semibold not-italic">{anyOf(draft)}</em> to{' '}
        <em className="font-semibold not-italic">{draft.terms ? 'its archive' : leads || '…'}</em>, at most{' '}
        {often(draft.per_page)}
        {where(draft) && `, ${where(draft)}`}.
      </p>
      <fieldset>
        <legend className="sr-only">What is linked</legend>
        <div className="flex flex-wrap gap-x-5 gap-y-1">
          {[false, true].map((ofTerms) => (
            <label key={String(ofTerms)} className="flex items-center gap-2">
              <input
                type="radio"
                name="what"
                className="radio radio-sm"
                checked={(draft.terms !== null) === ofTerms}
                onChange={() => change({ terms: ofTerms ? USED_TERMS : null })}
              />
              {ofTerms ? 'The names of categories and tags' : 'Phrases'}
            </label>
          ))}
        </div>
      </fieldset>
      {draft.terms ? (
        <RuleTerms terms={draft.terms} taxonomies={taxonomies} set={(terms) => change({ terms })} />
      ) : (
        <RulePhrases site={site} draft={draft} leads={leads} change={change} isNew={isNew} />
      )}
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
