import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useId, useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { KINDS } from '../../parts/words.ts';

interface Props {
  site: number;
  /** Pages to which the words could lead, the likeliest first. */
  targets: Schema['WordTarget'][];
  /** The page on which the words stand: it does not lead to itself. */
  source: number;
  choose: (page: Schema['PageRef']) => void;
  /** What a press on a row does. */
  verb: string;
  /** What is to carry the link. */
  what?: 'words' | 'picture' | 'address';
}

const WHAT = { words: 'these words', picture: 'this picture', address: 'these links' };

const NOTHING = {
  words: 'No page has these words in its name, or is about this paragraph.',
  picture: 'No page is about what this picture says, or what stands beside it.',
  address: '',
};

/** Targets for some words or a picture: proposed ones, and a field that finds a page of any kind. */
export function TargetChoice({ site, targets, source, choose, verb, what = 'words' }: Props) {
  const id = useId();
  const [text, setText] = useState('');
  const wanted = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: ['site', site, 'find', wanted],
    queryFn: () => answer(api.GET('/api/sites/{site}/find', { params: { path: { site }, query: { text: wanted } } })),
    enabled: wanted !== '',
    placeholderData: keepPreviousData,
  });
  const others = (found.data ?? []).filter((row) => row.page.number !== source);
  return (
    <div>
      <label htmlFor={id} className="mt-1 mb-0.5 block text-xs font-semibold text-secondary">
        Find any page
      </label>
      <input
        id={id}
        type="search"
        // biome-ignore lint/a11y/noAutofocus: the editor asked for another target
        autoFocus
        className="input input-sm mb-1 w-full"
        placeholder="Title, address or words"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <ul aria-label={wanted ? 'Pages found' : `Pages to which ${WHAT[what]} could lead`} className="flex flex-col">
        {wanted
          ? others.map(({ page }) => (
              <Row key={page.number} page={page} why={KINDS[page.kind]} fit={null} choose={choose} verb={verb} />
            ))
          : targets.map(({ page, why, fit, unwanted }) => (
              <Row
                key={page.number}
                page={page}
                why={unwanted ?? why}
                fit={fit ?? null}
                choose={choose}
                verb={verb}
                isOff={Boolean(unwanted)}
              />
            ))}
      </ul>
      {wanted && found.isSuccess && others.length === 0 && (
        <p className="py-1 text-secondary">Nothing is called “{wanted}”.</p>
      )}
      {!wanted && targets.length === 0 && NOTHING[what] && <p className="py-1 text-secondary">{NOTHING[what]}</p>}
    </div>
  );
}

interface RowProps {
  page: Schema['PageRef'];
  why: string;
  fit: number | null;
  choose: (page: Schema['PageRef']) => void;
  verb: string;
  isOff?: boolean;
}

function Row({ page, why, fit, choose, verb, isOff = false }: RowProps) {
  return (
    <li className="border-b border-base-300/60">
      <button
        type="button"
        disabled={isOff}
        className="flex w-full items-center gap-2 rounded px-1 py-1 text-left hover:bg-base-200 disabled:text-secondary"
        title={`${verb} ${page.title}`}
        onClick={() => choose(page)}
      >
        <span className="min-w-0 flex-1">
          <span className="sr-only">{verb} </span>
          <span className={`block truncate ${isOff ? '' : 'font-semibold text-primary'}`}>{page.title}</span>
          <span className="block truncate text-xs text-secondary" title={page.path}>
            {why} · {page.path}
          </span>
        </span>
        {fit !== null && <span className="figures font-semibold">{Math.round(fit)}</span>}
        <Depth depth={page.depth} />
      </button>
    </li>
  );
}
