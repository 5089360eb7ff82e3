import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useId, useRef, useState } from 'react';
import { answer, api, type Schema } from '../api/client.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { PageName } from '../parts/PageName.tsx';
import { SentenceText } from '../parts/SentenceText.tsx';
import { count } from '../parts/words.ts';
import { keyOf } from '../views/desk/opening.ts';
import { useDeskDecisions } from '../views/desk/useDesk.ts';

interface Props {
  site: number;
  pages: number[];
  direction: Schema['Direction'];
  close: () => void;
}

/** The best openings of some pages, every place listed, to be taken together and undone together. */
export function BestDialog({ site, pages, direction: first, close }: Props) {
  const [direction, setDirection] = useState(first);
  const [each, setEach] = useState(3);
  const [leastFit, setLeastFit] = useState(30);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const { takeMany } = useDeskDecisions();
  const takeButton = useRef<HTMLButtonElement>(null);
  const query = useQuery({
    queryKey: ['site', site, 'best', pages, direction, each, leastFit],
    queryFn: () =>
      answer(
        api.POST('/api/sites/{site}/openings/best', {
          params: { path: { site } },
          body: { pages, direction, each, least_fit: leastFit },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const found = (query.data ?? []).filter((page) => page.openings.length > 0);
  const chosen = found.flatMap((page) => page.openings).filter((opening) => !left.has(keyOf(opening)));
  const toggle = (key: string) =>
    setLeft((before) => {
      const after = new Set(before);
      if (!after.delete(key)) {
        after.add(key);
      }
      return after;
    });
  const take = () => {
    takeMany(chosen);
    close();
  };
  const many = pages.length > 1;
  // Once there is something to take, Enter takes it.
  useEffect(() => {
    if (query.isSuccess) {
      takeButton.current?.focus();
    }
  }, [query.isSuccess]);
  return (
    <Dialog
      title={many ? `Take the best for ${count(pages.length, 'page')}` : 'Take the best'}
      close={close}
      width="max-w-3xl"
    >
      <div className="flex flex-wrap items-end gap-4 border-b border-base-300 px-4 py-3">
        <fieldset className="flex gap-3">
          <legend className="mb-1 text-xs font-semibold text-secondary">Links that</legend>
          {(['in', 'out'] as const).map((value) => (
            <label key={value} className="flex items-center gap-1.5">
              <input
                type="radio"
                name="direction"
                className="radio radio-sm"
                checked={direction === value}
                onChange={() => setDirection(value)}
              />
              {value === 'in' ? (many ? 'lead to them' : 'lead here') : many ? 'they carry' : 'stand here'}
            </label>
          ))}
        </fieldset>
        <Count label={many ? 'For each page, at most' : 'At most'} value={each} set={setEach} least={1} most={20} />
        <Count label="Fit at least" value={leastFit} set={setLeastFit} least={0} most={100} />
        <p className="ml-auto text-secondary" role="status">
          {query.isFetching ? 'Looking …' : `${count(chosen.length, 'link')} chosen`}
        </p>
      </div>
      <div className="max-h-[52vh] overflow-y-auto px-4 py-2">
        {query.isError && (
          <p role="alert" className="py-3 font-semibold text-accent">
            {query.error.message}
          </p>
        )}
        {query.isSuccess && found.length === 0 && (
          <p className="py-3 text-secondary">
            {many ? 'These pages have' : 'This page has'} no opening with a fit of {leastFit} or more. Lower the fit, or
            choose the other direction.
          </p>
        )}
        {found.map((page) => (
          <section key={page.page.number} className="mb-3">
            {many && (
              <h3 className="font-semibold">
                {direction === 'in' ? 'To ' : 'On '}
                {page.page.title}
              </h3>
            )}
            <ul>
              {page.openings.map((opening) => (
                <li key={keyOf(opening)} className="border-b border-base-300/60">
                  <label className="flex cursor-pointer items-start gap-2.5 py-1.5">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm mt-0.5"
                      aria-label={`Take “${opening.sentence.anchor}”, ${opening.page.title}`}
                      checked={!left.has(keyOf(opening))}
                      onChange={() => toggle(keyOf(opening))}
                    />
                    <span className="min-w-0 flex-1">
                      <span className="text-secondary">{direction === 'in' ? 'on ' : 'to '}</span>
                      <PageName site={site} page={opening.page} />
                      <span className="block">
                        <SentenceText sentence={opening.sentence} carries="could" />
                      </span>
                    </span>
                    <span className="figures font-semibold" title="Fit">
                      {Math.round(opening.fit)}
                    </span>
                  </label>
                </li>
              ))}
            </ul>
          </section>
        ))}
      </div>
      <footer className="flex items-center gap-3 border-t border-base-300 bg-base-200 px-4 py-2">
        <p className="text-secondary">They go into the tray. One undo (U) takes them all out again.</p>
        <button
          ref={takeButton}
          type="button"
          className="btn btn-sm btn-primary ml-auto"
          disabled={chosen.length === 0 || query.isPlaceholderData}
          onClick={take}
        >
          Take {count(chosen.length, 'link')}
        </button>
      </footer>
    </Dialog>
  );
}

interface CountProps {
  label: string;
  value: number;
  set: (value: number) => void;
  least: number;
  most: number;
}

function Count({ label, value, set, least, most }: CountProps) {
  const id = useId();
  return (
    <span>
      <label htmlFor={id} className="mb-1 block text-xs font-semibold text-secondary">
        {label}
      </label>
      <input
        id={id}
        type="number"
        className="input input-sm figures w-24"
        min={least}
        max={most}
        value={value}
        onChange={(event) => set(Math.min(most, Math.max(least, Math.round(Number(event.target.value)) || least)))}
      />
    </span>
  );
}
