import { useEffect, useState } from 'react';
import { count } from '../../parts/words.ts';
import { useSite, useSiteStatus } from '../../window/useSite.ts';
import type { Only } from './columns.ts';
import { PageTable } from './PageTable.tsx';
import { useWish, type Wish } from './usePageList.ts';

export function PagesView() {
  const site = useSite();
  const [wish, setWish] = useWish();
  const [total, setTotal] = useState<number>();
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <h1 className="mr-2 font-serif text-xl font-semibold">Pages</h1>
        <TextFilter wish={wish} setWish={setWish} />
        <Chip only={null} wish={wish} setWish={setWish}>
          all pages
        </Chip>
        <Chip only="orphans" wish={wish} setWish={setWish}>
          links in = 0
        </Chip>
        <Chip only="unreachable" wish={wish} setWish={setWish}>
          out of reach
        </Chip>
        <span className="figures ml-auto text-secondary" role="status">
          {total === undefined ? '' : `${count(total, 'page')} shown`}
        </span>
      </div>
      <PageTable site={site} wish={wish} setWish={setWish} onTotal={setTotal} nothing={<Nothing wish={wish} />} />
    </div>
  );
}

interface FilterProps {
  wish: Wish;
  setWish: (change: Partial<Wish>) => void;
}

function TextFilter({ wish, setWish }: FilterProps) {
  const [text, setText] = useState(wish.text);
  useEffect(() => setText(wish.text), [wish.text]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only typing sets off the pause
  useEffect(() => {
    const timer = window.setTimeout(() => text !== wish.text && setWish({ text }), 200);
    return () => window.clearTimeout(timer);
  }, [text]);
  return (
    <input
      type="search"
      className="input input-sm w-64"
      aria-label="Filter pages by title, address, kind or category"
      placeholder="Title, address, category"
      value={text}
      onChange={(event) => setText(event.target.value)}
    />
  );
}

function Chip({ only, wish, setWish, children }: FilterProps & { only: Only | null; children: string }) {
  const isOn = wish.only === only;
  return (
    <button
      type="button"
      aria-pressed={isOn}
      className={`btn btn-sm rounded-full ${isOn ? 'btn-primary' : 'btn-ghost border-base-300'}`}
      onClick={() => setWish({ only })}
    >
      {children}
    </button>
  );
}

function Nothing({ wish }: { wish: Wish }) {
  const isReading = useSiteStatus().data?.reading?.phase;
  if (wish.text !== '') {
    return `No page has “${wish.text}” in its title, address, kind or category.`;
  }
  if (wish.only === 'orphans') {
    return 'Every page has at least one link in.';
  }
  if (wish.only === 'unreachable') {
    return 'Every page is within reach of the entry page.';
  }
  return isReading === 'done' || isReading === 'failed'
    ? 'No pages were found.'
    : 'Pages appear here as soon as they are read.';
}
