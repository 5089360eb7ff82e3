import { useDeferredValue, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { ListField, type ListRow } from '../../parts/ListField.tsx';
import { useFoundPages } from '../../parts/useFoundPages.ts';
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
  const [text, setText] = useState('');
  const wanted = useDeferredValue(text.trim());
  const found = useFoundPages(site, wanted);
  const rows: Row[] = wanted
    ? (found.data ?? [])
        .filter(({ page }) => page.number !== source)
        .map(({ page }) => ({ id: String(page.number), page, why: KINDS[page.kind] }))
    : targets.map(({ page, why, fit, unwanted }) => ({
        id: String(page.number),
        page,
        why: unwanted ?? why,
        fit,
        isOff: Boolean(unwanted),
      }));
  return (
    <div>
      <ListField
        label="Find any page"
        showsLabel
        placeholder="Title, address or words"
        text={text}
        setText={setText}
        rows={rows}
        listName={wanted ? 'Pages found' : `Pages to which ${WHAT[what]} could lead`}
        choose={(row) => choose(row.page)}
        draw={(row) => <RowText row={row} verb={verb} />}
        looks={{
          field: 'input input-sm mb-1 w-full',
          list: 'flex flex-col',
          row: 'flex items-center gap-2 rounded border-b border-base-300/60 px-1 py-1 data-highlighted:bg-base-200 data-disabled:text-secondary',
        }}
      />
      {wanted && found.isSuccess && rows.length === 0 && (
        <p className="py-1 text-secondary">Nothing is called “{wanted}”.</p>
      )}
      {!wanted && targets.length === 0 && NOTHING[what] && <p className="py-1 text-secondary">{NOTHING[what]}</p>}
    </div>
  );
}

interface Row extends ListRow {
  page: Schema['PageRef'];
  why: string;
  fit?: number | null | undefined;
}

function RowText({ row, verb }: { row: Row; verb: string }) {
  const { page, why, fit, isOff } = row;
  return (
    <>
      <span className="min-w-0 flex-1" title={`${verb} ${page.title}`}>
        <span className="sr-only">{verb} </span>
        <span className={`block truncate ${isOff ? '' : 'font-semibold text-primary'}`}>{page.title}</span>
        <span className="block truncate text-xs text-secondary" title={page.path}>
          {why} · {page.path}
        </span>
      </span>
      {fit != null && <span className="figures font-semibold">{Math.round(fit)}</span>}
      <Depth depth={page.depth} />
    </>
  );
}
