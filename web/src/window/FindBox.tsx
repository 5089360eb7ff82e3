import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { type KeyboardEvent, useDeferredValue, useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { answer, api, type Schema } from '../api/client.ts';
import { Depth } from '../parts/Depth.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { KINDS } from '../parts/words.ts';
import { type Action, useActions } from './actions.ts';
import { useSite } from './useSite.ts';

/** Actions that are offered before anything is typed. */
const FIRST = 9;

type Row = { id: string; perform: () => void } & ({ action: Action } | { found: Schema['FoundPage'] });

/** Jumps to any page, view or action. */
export function FindBox({ close, showKeys }: { close: () => void; showKeys: () => void }) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const { rows, isLooking } = useRows(text, showKeys);
  const current = Math.min(at, Math.max(rows.length - 1, 0));
  useEffect(() => {
    list.current?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' });
  });
  const perform = (row: Row | undefined) => {
    if (row) {
      close();
      // The dialog gives the focus back first.
      window.setTimeout(row.perform);
    }
  };
  const press = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step !== 0) {
      event.preventDefault();
      setAt((current + step + rows.length) % Math.max(rows.length, 1));
    } else if (event.key === 'Enter') {
      event.preventDefault();
      perform(rows[current]);
    }
  };
  return (
    <Dialog title="Find anything" close={close} width="mt-[10vh] max-w-2xl" hidesTitle>
      <div className="flex flex-col">
        <input
          autoFocus
          type="text"
          role="combobox"
          aria-label="Find a page, a view or an action"
          aria-expanded="true"
          aria-controls="found"
          aria-activedescendant={rows[current] ? `found-${rows[current].id}` : undefined}
          aria-autocomplete="list"
          autoComplete="off"
          spellCheck={false}
          className="w-full border-b border-base-300 bg-base-100 px-4 py-3 text-base outline-none focus-visible:outline-none"
          placeholder="A page’s title, address or words; a view; an action"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setAt(0);
          }}
          onKeyDown={press}
        />
        <div ref={list} id="found" role="listbox" aria-label="Found" className="max-h-[52vh] overflow-y-auto py-1">
          {rows.map((row, index) => (
            // biome-ignore lint/a11y/useKeyWithClickEvents: the field above has the keys
            // biome-ignore lint/a11y/useFocusableInteractive: as above
            <div
              key={row.id}
              id={`found-${row.id}`}
              role="option"
              aria-selected={index === current}
              className={`flex cursor-pointer items-center gap-3 px-4 py-1.5 ${index === current ? 'bg-depth-0 text-depth-ink-0' : ''}`}
              onMouseMove={() => setAt(index)}
              onClick={() => perform(row)}
            >
              {'action' in row ? <ActionRow action={row.action} /> : <PageRow found={row.found} />}
            </div>
          ))}
        </div>
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
