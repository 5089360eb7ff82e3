import { useCallback, useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { useDecisions } from '../../decisions/context.ts';
import { useKeys } from '../../parts/keys.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { count } from '../../parts/words.ts';
import { copyTable } from '../../table/clipboard.ts';
import type { Column, Order } from '../../table/column.ts';
import { DataTable } from '../../table/DataTable.tsx';
import { type ExportFormat, ExportMenu } from '../../table/ExportMenu.tsx';
import { TextFilter } from '../../table/TextFilter.tsx';
import { type Selection, useSelection } from '../../table/useSelection.ts';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { RuleLimits } from './RuleLimits.tsx';
import { phrasesOf } from './ruleDraft.ts';
import { COLUMNS, type RuleColumn, rowsOf, textOf } from './ruleRows.ts';
import { type RuleRow, useRuleActions, useRules } from './useRules.ts';

/** All auto-linking rules of the site. */
export function RulesView() {
  const site = useSite();
  const query = useRules(site);
  const navigate = useNavigate();
  const [text, setText] = useState('');
  const [order, setOrder] = useState<Order<RuleColumn>>({ sort: 'phrases', descending: false });
  const [setsLimits, setSetsLimits] = useState(false);
  const rules = query.data?.rules;
  const rows = useMemo(() => rowsOf(rules ?? [], text, order), [rules, text, order]);
  const source = useMemo(
    () => ({
      // What is shown changes with the rules, which are all in the browser.
      queryKey: ['rule-rows', site, text, order.sort, order.descending, query.dataUpdatedAt],
      fetch: (offset: number, limit: number) =>
        Promise.resolve({ total: rows.length, rows: rows.slice(offset, offset + limit) }),
    }),
    [site, text, order, query.dataUpdatedAt, rows],
  );
  const selection = useSelection({ ...source, queryKey: ['rule-rows', site, text] }, RULE_WORDS);
  const make = () => void navigate(`/${site}/rules/new`);
  useKeys({ n: make });
  const cell = useCallback(
    (column: Column<RuleColumn>, row: RuleRow, index: number) => (
      <RuleCell column={column.key} site={site} row={row} index={index} />
    ),
    [site],
  );
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Getting the rules" />;
  }
  const waiting = query.data.rules.reduce((sum, row) => sum + (row.counts?.wanted ?? 0), 0);
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
        {query.data.rules.length > 0 && (
          <TextFilter text={text} set={setText} label="Filter the rules" placeholder="Phrase or target" />
        )}
        <span className="ml-auto flex items-center gap-2">
          <button type="button" className="btn btn-sm btn-ghost border-base-300" onClick={() => setSetsLimits(true)}>
            Limits for all rules …
          </button>
          <Link to={`/${site}/rules/phrases`} className="btn btn-sm btn-ghost border-base-300">
            Propose phrases …
          </Link>
          <Link to={`/${site}/rules/table`} className="btn btn-sm btn-ghost border-base-300">
            From a table …
          </Link>
          {query.data.rules.length > 0 && (
            <ExportMenu
              formats={FORMATS}
              address={(format) => `/api/sites/${site}/rules/export?format=${format}`}
              what="All rules with phrases, in columns that can be read in again. Rules for the names of categories and tags are left out."
            />
          )}
          <button type="button" className="btn btn-sm btn-primary" onClick={make}>
            New rule <kbd className="kbd kbd-xs text-base-content">N</kbd>
          </button>
        </span>
      </div>
      <p className="figures flex min-h-7 flex-wrap items-center gap-x-3 px-4 pb-1 text-secondary">
        <span role="status">
          {query.data.rules.length > 0 && count(rows.length, 'rule')}
          {query.data.rules.length > 0 && !query.data.is_counted && ' · their places are being counted'}
        </span>
        <Selected site={site} selection={selection} />
        {waiting > 0 && (
          <Link
            to={`/${site}/rules/places`}
            className="ml-auto inline-block py-0.5 leading-6 font-semibold text-primary underline"
          >
            Look at {count(waiting, 'place')} that would be linked
          </Link>
        )}
      </p>
      <Outdated list={query.data} />
      {query.data.rules.length === 0 ? (
        <FirstRule make={make} />
      ) : (
        <DataTable
          source={source}
          columns={COLUMNS}
          order={order}
          setOrder={setOrder}
          selection={selection}
          keyOf={RULE_WORDS.keyOf}
          nameOf={(row) => phrasesOf(row.rule)}
          cell={cell}
          copy={() => void copy([...selection.rows.values()])}
          onTotal={ignore}
          loading="Gathering the rules"
          nothing={`No rule has “${text}” in a phrase or leads there.`}
        />
      )}
      {setsLimits && <RuleLimits site={site} known={query.data.limits} close={() => setSetsLimits(false)} />}
    </div>
  );
}

const RULE_WORDS = { keyOf: (row: RuleRow) => row.number, counted: (rules: number) => count(rules, 'rule') };

const ignore = () => undefined;

const FORMATS: ExportFormat[] = [
  { format: 'csv', file: 'rules.csv', name: 'CSV, for any spreadsheet' },
  { format: 'xlsx', file: 'rules.xlsx', name: 'XLSX workbook' },
];

/** Links that rules made and would not make so now. */
function Outdated({ list }: { list: Schema['RuleList'] }) {
  const { decide } = useDecisions();
  const rows = list.rules.filter((row) => row.outdated > 0);
  const links = rows.reduce((sum, row) => sum + row.outdated, 0) + list.left_behind.links;
  if (links === 0) {
    return null;
  }
  const rules = [...rows.map((row) => row.number), ...list.left_behind.rules];
  return (
    <p className="figures flex flex-wrap items-center gap-3 border-y border-base-300 bg-base-200 px-4 py-1.5">
      {count(links, 'link')} on the site {links === 1 ? 'is' : 'are'} of rules that were changed, switched off or
      removed.
      <button
        type="button"
        className="btn btn-xs btn-primary"
        onClick={() => decide({ kind: 'follow_rules', rules, page: null }, count(links, 'link'))}
      >
        Let {links === 1 ? 'it' : 'them'} follow
      </button>
    </p>
  );
}

function FirstRule({ make }: { make: () => void }) {
  return (
    <div className="mx-auto max-w-lg p-8">
      <h2 className="mb-2 font-serif text-lg font-semibold">Words that link themselves</h2>
      <p className="mb-2">
        Say once that some words lead to a page. Strelm finds them wherever they stand, shows you every sentence before
        anything is linked, and says of each place that it leaves alone why.
      </p>
      <p className="mb-4 text-secondary">
        Limits keep pages readable: one link of a rule in 80 words, each target once a page, headings and code left out.
      </p>
      <button type="button" className="btn btn-primary" onClick={make}>
        Make the first rule
      </button>
    </div>
  );
}

interface CellProps {
  column: RuleColumn;
  site: number;
  row: RuleRow;
  index: number;
}

function RuleCell({ column, site, row, index }: CellProps) {
  const text = textOf(row, column);
  switch (column) {
    case 'phrases':
      return (
        <Link
          to={`/${site}/rules/${row.number}`}
          data-index={index}
          className={`title-link ${row.rule.is_on ? '' : 'text-secondary'}`}
          title={row.rule.phrases.join(' · ')}
        >
          {text}
        </Link>
      );
    case 'leads':
      return (
        <span title={row.leads.page?.path ?? text} className={row.leads.page?.is_gone ? 'text-accent' : ''}>
          {text}
          {row.leads.page?.is_gone && ' (no longer on the site)'}
        </span>
      );
    default:
      return <span title={column === 'where' ? text : undefined}>{text}</span>;
  }
}

function Selected({ site, selection }: { site: number; selection: Selection<RuleRow> }) {
  const { toggle } = useRuleActions(site);
  const rules = [...selection.rows.keys()];
  if (rules.length === 0) {
    return null;
  }
  const act = (to: 'on' | 'off' | 'removed') => {
    toggle.mutate({ rules, to });
    selection.clear();
  };
  const look = 'inline-block leading-6 text-primary underline';
  return (
    <>
      <span className="font-semibold text-base-content">{count(rules.length, 'rule')} selected</span>
      <Link to={`/${site}/rules/places?rules=${rules.join()}`} className={`font-semibold ${look}`}>
        Look at their places
      </Link>
      <button type="button" className={look} onClick={() => act('on')}>
        Switch on
      </button>
      <button type="button" className={look} onClick={() => act('off')}>
        Switch off
      </button>
      <button type="button" className={look} onClick={() => act('removed')}>
        Remove
      </button>
      <button type="button" className={look} onClick={selection.clear}>
        Select none
      </button>
    </>
  );
}

function copy(rows: readonly RuleRow[]): Promise<void> {
  const cells = rows.map((row) => COLUMNS.map((column) => textOf(row, column.key)));
  return copyTable([COLUMNS.map((column) => column.name), ...cells], count(rows.length, 'rule'));
}
