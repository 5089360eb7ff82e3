import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import { answer, api, type Schema } from '../api/client.ts';
import { Depth } from '../parts/Depth.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { ListField } from '../parts/ListField.tsx';
import { KINDS } from '../parts/words.ts';
import { type Action, useActions } from './actions.ts';
import { useSite } from './useSite.ts';

/** Actions that are offered before anything is typed. */
const FIRST = 9;

type Row = { id: string; perform: () => void } & ({ action: Action } | { found: Schema['FoundPage'] });

/** Jumps to any page, view or action. */
export function FindBox({ close, showKeys }: { close: () => void; showKeys: () => void }) {
  const [text, setText] = useState('');
  const { rows, isLooking } = useRows(text, showKeys);
  const choose = (row: Row) => {
    close();
    // The dialog gives the focus back first.
    window.setTimeout(row.perform);
  };
  return (
    <Dialog title="Find anything" close={close} width="mt-[10vh] max-w-2xl" hidesTitle>
      <div className="flex flex-col">
        <ListField
          label="Find a page, a view or an action"
          placeholder="A page’s title, address or words; a view; an action"
          text={text}
          setText={setText}
          rows={rows}
          listName="Found"
          choose={choose}
          draw={(row) => ('action' in row ? <ActionRow action={row.action} /> : <PageRow found={row.found} />)}
          choosesFirst
          looks={{
            field:
              'w-full border-b border-base-300 bg-base-100 px-4 py-3 text-base outline-none focus-visible:outline-none',
            list: 'max-h-[52vh] overflow-y-auto py-1',
            row: 'flex items-center gap-3 px-4 py-1.5 data-highlighted:bg-depth-0 data-highlighted:text-depth-ink-0',
          }}
        />
        <p className="border-t border-base-300 px-4 py-1.5 text-xs text-secondary" role="status">
          {rows.length === 0 && !isLooking
            ? `Nothing is called “${text.trim()}”, and no page has these words.`
            : '↓ ↑ to choose, Enter to go there, Esc to close'}
        </p>
      </div>
    </Dialog>
  );
}

function useRows(text: string, showKeys: () => void): { rows: Row[]; isLooking: boolean } {
  const site = useSite();
  const navigate = useNavigate();
  const wanted = useDeferredValue(text.trim());
  const actions = useActions(showKeys);
  const pages = useQuery({
    queryKey: ['site', site, 'find', wanted],
    queryFn: () => answer(api.GET('/api/sites/{site}/find', { params: { path: { site }, query: { text: wanted } } })),
    enabled: wanted !== '',
    placeholderData: keepPreviousData,
  });
  const words = wanted.toLowerCase().split(/\s+/);
  const fits = ({ name, also }: Action) => words.every((word) => `${name} ${also}`.toLowerCase().includes(word));
  const fitting = wanted === '' ? actions.slice(0, FIRST) : actions.filter(fits);
  const rows: Row[] = [
    ...fitting.map((action) => ({ id: action.name.replaceAll(' ', '-'), action, perform: action.perform })),
    ...(wanted === '' ? [] : (pages.data ?? [])).map((found) => ({
      id: `page-${found.page.number}`,
      found,
      perform: () => void navigate(`/${site}/pages/${found.page.number}`),
    })),
  ];
  return { rows, isLooking: pages.isFetching };
}

function ActionRow({ action }: { action: Action }) {
  return (
    <>
      <span className="flex-1 font-semibold">{action.name}</span>
      <span className="text-xs">{action.hint}</span>
    </>
  );
}

const PLACES: Record<Schema['FoundPlace'], string> = { title: '', address: '', text: 'has the words in its text' };

function PageRow({ found }: { found: Schema['FoundPage'] }) {
  const { page, place } = found;
  return (
    <>
      <span className="min-w-0 flex-1">
        <span className="block truncate font-semibold">{page.title}</span>
        <span className="block truncate text-xs">
          {page.path}
          {PLACES[place] && ` · ${PLACES[place]}`}
        </span>
      </span>
      <span className="text-xs">{KINDS[page.kind]}</span>
      <Depth depth={page.depth} />
    </>
  );
}
