import { useDeferredValue, useMemo, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { useDecisions } from '../../decisions/context.ts';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import { TargetField } from '../../parts/TargetField.tsx';
import { count } from '../../parts/words.ts';
import { useSite } from '../../window/useSite.ts';
import { PlacesPane } from './PlacesPane.tsx';
import { RuleSentences } from './RuleSentences.tsx';
import { type Draft, draftOf, EMPTY, type Rule, ruleOf, type Taxonomy } from './ruleDraft.ts';
import type { Asked } from './usePlaces.ts';
import { type RuleRow, useRuleActions, useRules } from './useRules.ts';

/** A rule in sentences, and beside it what it does on the site while one writes. */
export function RuleView() {
  const site = useSite();
  const { rule = '' } = useParams();
  const [search] = useSearchParams();
  const query = useRules(site);
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Getting the rules" />;
  }
  const { rules, categories, taxonomies } = query.data;
  const isNew = rule === 'new';
  // A copy begins as what it is a copy of.
  const of = Number(isNew ? search.get('of') : rule);
  const known = rules.find((row) => row.number === of);
  if (!isNew && !known) {
    return (
      <Empty isView title="There is no such rule">
        It was removed, or never was. <Link to={`/${site}/rules`}>See all rules</Link>
      </Empty>
    );
  }
  return (
    <Editor
      key={`${rule} ${of}`}
      site={site}
      rules={rules}
      categories={categories}
      taxonomies={taxonomies}
      known={known}
      isNew={isNew}
    />
  );
}

interface Props {
  site: number;
  rules: readonly RuleRow[];
  categories: readonly string[];
  taxonomies: readonly Taxonomy[];
  known: RuleRow | undefined;
  isNew: boolean;
}

function Editor({ site, rules, categories, taxonomies, known, isNew }: Props) {
  const navigate = useNavigate();
  const { make, change, toggle } = useRuleActions(site);
  const { decide } = useDecisions();
  const [draft, setDraft] = useState<Draft>(() => (known ? draftOf(known.rule) : EMPTY));
  const [leads, setLeads] = useState(known?.leads.text ?? '');
  const [names, setNames] = useState(() => new Map(known?.named_pages.map((page) => [page.number, page.title])));
  const [tried, setTried] = useState<TriedPage>();
  const rule = useMemo(() => ruleOf(draft), [draft]);
  const isChanged = isNew || !known || JSON.stringify(draft) !== JSON.stringify(draftOf(known.rule));
  const looked = useDeferredValue(rule);
  const number = isNew ? undefined : known?.number;
  const asked = useMemo(() => question(looked, number, isChanged, tried), [looked, number, isChanged, tried]);
  const save = () => {
    if (!rule) {
      return;
    }
    if (number === undefined || !known) {
      make.mutate([rule], {
        onSuccess: ({ numbers }) => void navigate(`/${site}/rules/${numbers[0]}`, { replace: true }),
      });
    } else {
      change.mutate({ number, rule, before: known.rule });
    }
  };
  const problem = make.error ?? change.error;
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-3 px-4 py-2">
        <Link to={`/${site}/rules`} className="font-serif text-xl text-secondary hover:underline">
          Rules
        </Link>
        <h1 className="font-serif text-xl font-semibold">{isNew ? 'A new rule' : 'The rule'}</h1>
        {number !== undefined && known && (
          <span className="ml-auto flex items-center gap-2">
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="toggle toggle-sm toggle-primary"
                checked={known.rule.is_on ?? true}
                onChange={(event) => {
                  const isOn = event.target.checked;
                  setDraft({ ...draft, is_on: isOn });
                  toggle.mutate({ rules: [number], to: isOn ? 'on' : 'off' });
                }}
              />
              on
            </label>
            <Link to={`/${site}/rules/new?of=${number}`} className="btn btn-sm btn-ghost border-base-300">
              Duplicate
            </Link>
            <button
              type="button"
              className="btn btn-sm btn-ghost border-base-300"
              onClick={() => {
                toggle.mutate({ rules: [number], to: 'removed' });
                void navigate(`/${site}/rules`);
              }}
            >
              Remove
            </button>
          </span>
        )}
      </div>
      <div className="flex min-h-0 flex-1 flex-col overflow-y-auto border-t border-base-300 lg:flex-row lg:overflow-hidden">
        <form
          aria-label="The rule"
          className="flex min-w-0 shrink-0 flex-col lg:w-[46%] lg:min-h-0"
          onSubmit={(event) => {
            event.preventDefault();
            save();
          }}
        >
          <div className="min-h-0 flex-1 lg:overflow-y-auto">
            <RuleSentences
              site={site}
              draft={draft}
              leads={leads}
              categories={categories}
              taxonomies={taxonomies}
              isNew={isNew}
              names={names}
              named={(page, title) => setNames(new Map(names).set(page, title))}
              change={(part, name) => {
                setDraft({ ...draft, ...part });
                if (name !== undefined) {
                  setLeads(name);
                }
              }}
            />
          </div>
          <footer className="flex flex-wrap items-center gap-3 border-t border-base-300 bg-base-200 px-4 py-2">
            {problem && (
              <p role="alert" className="font-semibold text-accent">
                {problem.message}
              </p>
            )}
            {!rule && <p className="text-secondary">{missing(draft)}</p>}
            <button
              type="submit"
              className="btn btn-sm btn-primary ml-auto"
              disabled={!rule || !isChanged || make.isPending || change.isPending}
            >
              {isNew ? 'Make the rule' : 'Save the rule'}
            </button>
          </footer>
        </form>
        <div className="flex min-h-[24rem] min-w-0 flex-1 flex-col border-base-300 bg-base-100 max-lg:border-t lg:min-h-0 lg:border-l">
          {known && number !== undefined && known.outdated > 0 && !(isChanged && rule) && (
            <p className="figures flex flex-wrap items-center gap-3 border-b border-base-300 px-4 py-2">
              {count(known.outdated, 'link')} of this rule {known.outdated === 1 ? 'is' : 'are'}{' '}
              {known.rule.is_on ? 'not as it would make them now' : 'still on the site'}.
              <button
                type="button"
                className="btn btn-xs btn-primary"
                onClick={() =>
                  decide({ kind: 'follow_rules', rules: [number], page: null }, count(known.outdated, 'link'))
                }
              >
                {followWords(known.rule.is_on ?? true, known.outdated)}
              </button>
            </p>
          )}
          {rule && <TryOnOne site={site} tried={tried} set={setTried} />}
          <PlacesPane
            site={site}
            asked={asked}
            rules={number === undefined ? rules : rules.filter((row) => row.number === number)}
            takes={!isChanged && (known?.rule.is_on ?? true)}
            empty="While you write, this side shows on which pages and in which sentences the rule links, and what is held back and why."
          >
            {isChanged && rule && (
              <p className="text-secondary">
                {isNew ? 'Make the rule' : 'Save it'}, and its links can be looked at one by one and taken.
              </p>
            )}
          </PlacesPane>
        </div>
      </div>
    </div>
  );
}

interface TriedPage {
  number: number;
  title: string;
}

interface TryProps {
  site: number;
  tried: TriedPage | undefined;
  set: (page: TriedPage | undefined) => void;
}

/** Whether only one page is looked at, and which. */
function TryOnOne({ site, tried, set }: TryProps) {
  const [chooses, setChooses] = useState(false);
  if (tried) {
    return (
      <p className="flex items-center gap-2 border-b border-base-300 px-4 py-1.5">
        <span className="min-w-0 truncate">
          Tried on <span className="font-semibold text-primary">{tried.title}</span> alone
        </span>
        <button type="button" className="btn btn-xs btn-ghost border-base-300" onClick={() => set(undefined)}>
          On all pages
        </button>
      </p>
    );
  }
  return (
    <div className="border-b border-base-300 px-4 py-1.5">
      {chooses ? (
        <TargetField
          site={site}
          label="The page to try it on"
          takes="pages"
          choose={(target, title) => {
            setChooses(false);
            if (typeof target === 'number') {
              set({ number: target, title });
            }
          }}
        />
      ) : (
        <button type="button" className="btn btn-xs btn-ghost border-base-300" onClick={() => setChooses(true)}>
          Try on one page …
        </button>
      )}
    </div>
  );
}

function followWords(isOn: boolean, links: number): string {
  const them = links === 1 ? 'it' : 'them';
  return isOn ? `Change ${them}` : `Take ${them} off`;
}

function missing(draft: Draft): string {
  return draft.phrases.every((phrase) => phrase.trim() === '')
    ? 'Say which words are to be linked.'
    : 'Say where they lead.';
}

/** A rule that is kept as it is written is asked for by its number alone. */
function question(
  rule: Rule | undefined,
  number: number | undefined,
  isChanged: boolean,
  tried: TriedPage | undefined,
): Asked | undefined {
  if (!rule) {
    return undefined;
  }
  return {
    rules: number === undefined ? [] : [number],
    draft: isChanged || !rule.is_on ? rule : undefined,
    pages: tried && [tried.number],
  };
}
