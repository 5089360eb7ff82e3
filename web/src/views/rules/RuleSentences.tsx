import { type ReactNode, useEffect, useId, useRef } from 'react';
import { Check } from '../../parts/Check.tsx';
import { TargetField } from '../../parts/TargetField.tsx';
import { KINDS } from '../../parts/words.ts';
import { PagesField } from './PagesField.tsx';
import { anyOf, BLOCK_NAMES, type Draft, often, where } from './ruleDraft.ts';

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
      <details open={where(draft) !== ''}>
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
            Published since <Day label="Published since" value={draft.since} set={(since) => change({ since })} />,
            before <Day label="Published before" value={draft.before} set={(before) => change({ before })} />; not
            within the first{' '}
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
      <details>
        <summary className="cursor-pointer font-semibold">How often, and what the links say</summary>
        <div className="mt-2 flex flex-col gap-3">
          <p className="figures leading-8">
            In{' '}
            <Count
              label="Percent of the places"
              value={Math.round(draft.share * 100)}
              least={0}
              most={100}
              set={(percent) => change({ share: percent / 100 })}
            />{' '}
            % of the places; up to{' '}
            <Count
              label="Words between two words of a phrase"
              value={draft.gap}
              least={0}
              most={10}
              set={(gap) => change({ gap })}
            />{' '}
            other words may stand within a phrase; priority{' '}
            <Count
              label="Priority"
              value={draft.priority}
              least={-1000}
              most={1000}
              set={(priority) => change({ priority })}
            />
            .
          </p>
          <p className="figures leading-8">
            At most{' '}
            <Count
              label="Links in a sentence, 0 for as many as all rules may"
              value={draft.per_sentence ?? 0}
              least={0}
              most={20}
              set={(most) => change({ per_sentence: most || null })}
            />{' '}
            links in a sentence (0 for as many as all rules may).
          </p>
          <p className="figures leading-8">
            On the whole site at most{' '}
            <Count
              label="Links on the whole site, 0 for any number"
              value={draft.in_total ?? 0}
              least={0}
              most={1_000_000}
              set={(total) => change({ in_total: total || null })}
            />{' '}
            links (0 for any number).
          </p>
          <Checks>
            <Check
              label="leaves pages alone that lead there already"
              isOn={draft.skips_linked_pages}
              set={(skips_linked_pages) => change({ skips_linked_pages })}
            />
            <Check
              label="counts links there that it did not make"
              isOn={draft.counts_other_links}
              set={(counts_other_links) => change({ counts_other_links })}
            />
            <Check
              label="may lead back to a page that links here"
              isOn={draft.links_back}
              set={(links_back) => change({ links_back })}
            />
            <Check label="nofollow" isOn={draft.nofollow} set={(nofollow) => change({ nofollow })} />
            <Check label="sponsored" isOn={draft.sponsored} set={(sponsored) => change({ sponsored })} />
            <Check label="ugc" isOn={draft.ugc} set={(ugc) => change({ ugc })} />
            <Check label="opens in a new tab" isOn={draft.new_tab} set={(new_tab) => change({ new_tab })} />
          </Checks>
          <Line
            label="Title of the links"
            value={draft.title ?? ''}
            set={(title) => change({ title: title || null })}
          />
          <Line label="Class of the links" value={draft.class ?? ''} set={(text) => change({ class: text || null })} />
          <Line
            label="A data attribute of the links (data-name=value), by which scripts know them"
            value={draft.data ?? ''}
            set={(data) => change({ data: data || null })}
          />
          <Lines
            label="Parameters for other sites"
            placeholder="from=guides"
            value={draft.tracking}
            set={(tracking) => change({ tracking })}
          />
        </div>
      </details>
    </div>
  );
}

/** Terms are the same in any case. */
function isSame(one: string, other: string): boolean {
  return one.localeCompare(other, undefined, { sensitivity: 'accent' }) === 0;
}

function Checks({ children }: { children: ReactNode }) {
  return <div className="mt-1 flex flex-wrap gap-x-5 gap-y-1">{children}</div>;
}

interface CountProps {
  label: string;
  value: number;
  least: number;
  most?: number;
  set: (value: number) => void;
}

function Count({ label, value, least, most = 1000, set }: CountProps) {
  return (
    <input
      type="number"
      aria-label={label}
      className="input input-sm w-18 px-2 text-right"
      min={least}
      max={most}
      value={value}
      onChange={(event) => {
        const typed = Math.round(Number(event.target.value));
        if (Number.isFinite(typed)) {
          set(Math.min(most, Math.max(least, typed)));
        }
      }}
    />
  );
}

function Day({ label, value, set }: { label: string; value: string | null; set: (value: string | null) => void }) {
  return (
    <input
      type="date"
      aria-label={label}
      className="input input-sm w-38 px-2"
      value={value ?? ''}
      onChange={(event) => set(event.target.value || null)}
    />
  );
}

interface LineProps<T> {
  label: string;
  placeholder?: string;
  value: T;
  set: (value: T) => void;
}

function Line({ label, value, set }: LineProps<string>) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-1 block">
        {label}
      </label>
      <input id={id} className="input input-sm w-full" value={value} onChange={(event) => set(event.target.value)} />
    </div>
  );
}

function Lines({ label, placeholder, value, set }: LineProps<string[]>) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-1 block">
        {label}
      </label>
      <textarea
        id={id}
        className="textarea textarea-sm w-full"
        rows={Math.max(1, value.length)}
        placeholder={placeholder}
        value={value.join('\n')}
        onChange={(event) => set(event.target.value === '' ? [] : event.target.value.split('\n'))}
      />
    </div>
  );
}
