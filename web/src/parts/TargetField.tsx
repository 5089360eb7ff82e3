import { useDeferredValue, useState } from 'react';
import type { Schema } from '../api/client.ts';
import { ListField, type ListRow } from './ListField.tsx';
import { useFoundPages } from './useFoundPages.ts';
import { KINDS } from './words.ts';

type Target = Schema['TargetWish'];

interface Props {
  site: number;
  label?: string;
  /** What can be chosen: pages alone, or addresses of other sites too, or mail as well. */
  takes?: 'pages' | 'pages and addresses' | 'anything';
  /** Whether its name is seen, and what stands around it has the focus first. */
  isInForm?: boolean;
  choose: (target: Target, name: string) => void;
}

const HINTS = {
  pages: '',
  'pages and addresses': '; or https://…',
  anything: '; or https://… or a mail address',
};

interface Row extends ListRow {
  target: Target;
  name: string;
  why: string;
}

/** Where links are to lead: a page that is found by its title, address or words, an address of another site, or mail. */
export function TargetField({ site, label = 'Where they lead', takes = 'anything', isInForm = false, choose }: Props) {
  const [text, setText] = useState('');
  const wanted = useDeferredValue(text.trim());
  const found = useFoundPages(site, wanted);
  const pages: Row[] = (wanted ? (found.data ?? []) : []).map(({ page }) => ({
    id: String(page.number),
    target: page.number,
    name: page.title,
    why: `${KINDS[page.kind]} · ${page.path}`,
  }));
  const typed = typedTarget(wanted, takes);
  const rows = typed ? [typed, ...pages] : pages;
  return (
    <div>
      <ListField
        label={label}
        showsLabel={isInForm}
        waits={isInForm}
        placeholder={`Title, address or words${HINTS[takes]}`}
        text={text}
        setText={setText}
        rows={rows}
        listName="Targets found"
        choose={(row) => choose(row.target, row.name)}
        draw={(row) => (
          <span className="min-w-0 flex-1">
            <span className="block truncate font-semibold text-primary">{row.name}</span>
            <span className="block truncate text-xs text-secondary">{row.why}</span>
          </span>
        )}
        looks={{
          field: 'input input-sm w-full',
          list: 'max-h-56 overflow-y-auto flex flex-col',
          row: 'flex items-center gap-2 rounded border-b border-base-300/60 px-1 py-1 data-highlighted:bg-base-200',
        }}
      />
      {wanted && found.isSuccess && rows.length === 0 && (
        <p className="py-1 text-secondary">Nothing is called “{wanted}”.</p>
      )}
    </div>
  );
}

/** What is no page: an address of another site, or who gets a mail. */
function typedTarget(text: string, takes: NonNullable<Props['takes']>): Row | undefined {
  if (takes !== 'pages' && /^https?:\/\/\S+$/i.test(text)) {
    return { id: 'typed', target: { kind: 'outside', address: text }, name: text, why: 'an address of another site' };
  }
  if (takes === 'anything' && /^(mailto:)?[^@\s]+@[^@\s]+$/i.test(text)) {
    return { id: 'typed', target: { kind: 'mail', to: text }, name: text, why: 'mail' };
  }
  return undefined;
}
