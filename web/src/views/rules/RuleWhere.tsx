import { Check } from '../../parts/Check.tsx';
import { KINDS } from '../../parts/words.ts';
import { PagesField } from './PagesField.tsx';
import { type Draft, where } from './ruleDraft.ts';
import { Checks, Count, Day, Lines } from './ruleFields.tsx';

interface Props {
  site: number;
  draft: Draft;
  categories: readonly string[];
  change: (part: Partial<Draft>) => void;
  /** What pages are called that it names, and that one more is. */
  names: ReadonlyMap<number, string>;
  named: (page: number, title: string) => void;
}

/** On which pages a rule links, and where on them. */
export function RuleWhere({ site, draft, categories, change, names, named }: Props) {
  return (
    <details open={where({ ...draft, terms: null }) !== ''}>
      <summary className="cursor-pointer font-semibold">Where</summary>
      <div className="mt-2 flex flex-col gap-3">
        {categories.length > 0 && (
          <fieldset>
            <legend className="mb-1">Only in these categories</legend>
            <Checks>
              {categories.map((category) => (
                <Check
                  key={category}
                  label={category}
                  isOn={draft.any_term.some((term) => isSame(term, category))}
                  set={(isOn) =>
                    change({
                      any_term: isOn
                        ? [...draft.any_term, category]
                        : draft.any_term.filter((term) => !isSame(term, category)),
                    })
                  }
                />
              ))}
            </Checks>
          </fieldset>
        )}
        <fieldset>
          <legend className="mb-1">Only on these kinds</legend>
          <Checks>
            {(Object.keys(KINDS) as (keyof typeof KINDS)[])
              .filter((kind) => kind !== 'file')
              .map((kind) => (
                <Check
                  key={kind}
                  label={`${KINDS[kind]}s`}
                  isOn={draft.kinds.includes(kind)}
                  set={(isOn) =>
                    change({ kinds: isOn ? [...draft.kinds, kind] : draft.kinds.filter((one) => one !== kind) })
                  }
                />
              ))}
          </Checks>
        </fieldset>
        <Lines
          label="Only where all of these categories or tags meet"
          value={draft.all_terms}
          set={(all_terms) => change({ all_terms })}
        />
        <Lines label="Not in these categories or tags" value={draft.no_term} set={(no_term) => change({ no_term })} />
        <Lines
          label="Only on pages with such a path"
          placeholder="/guides/*"
          value={draft.paths}
          set={(paths) => change({ paths })}
        />
        <Lines
          label="Not on pages with such a path"
          placeholder="/news/*"
          value={draft.not_paths}
          set={(not_paths) => change({ not_paths })}
        />
        <Lines
          label="Only in these languages"
          placeholder="en"
          value={draft.languages}
          set={(languages) => change({ languages })}
        />
        <PagesField
          site={site}
          label="Only on these pages"
          value={draft.only}
          names={names}
          set={(only) => change({ only })}
          named={named}
        />
        <PagesField
          site={site}
          label="Not on these pages"
          value={draft.never}
          names={names}
          set={(never) => change({ never })}
          named={named}
        />
        <Lines
          label="Only within such elements"
          placeholder=".article-body (CSS selectors)"
          value={draft.within}
          set={(within) => change({ within })}
        />
        <Lines
          label="Not within such elements"
          placeholder="aside, .note"
          value={draft.without}
          set={(without) => change({ without })}
        />
        <Lines
          label="Not beside these words"
          placeholder="One a line"
          value={draft.not_beside}
          set={(not_beside) => change({ not_beside })}
        />
        <Checks>
          <Check
            label="only on pages of the target’s category"
            isOn={draft.shares_term}
            set={(shares_term) => change({ shares_term })}
          />
        </Checks>
        <p className="figures leading-8">
          Published since <Day label="Published since" value={draft.since} set={(since) => change({ since })} />, before{' '}
          <Day label="Published before" value={draft.before} set={(before) => change({ before })} />; not within the
          first{' '}
          <Count
            label="First words without links"
            value={draft.first_words_free}
            least={0}
            set={(first_words_free) => change({ first_words_free })}
          />{' '}
          words.
        </p>
      </div>
    </details>
  );
}

/** Terms are the same in any case. */
function isSame(one: string, other: string): boolean {
  return one.localeCompare(other, undefined, { sensitivity: 'accent' }) === 0;
}
