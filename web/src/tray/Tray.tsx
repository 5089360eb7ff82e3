import { useEffect, useState } from 'react';
import { count } from '../parts/words.ts';
import { useSite, useSiteStatus } from '../window/useSite.ts';
import { TrayList } from './TrayList.tsx';
import { useRelease } from './useTray.ts';

/** One line at the foot of the window that opens upward into everything taken and not yet out. */
export function Tray() {
  const site = useSite();
  const status = useSiteStatus().data;
  const [open, setOpen] = useState(false);
  const release = useRelease(site);
  useEffect(() => {
    const close = (event: KeyboardEvent) => event.key === 'Escape' && setOpen(false);
    window.addEventListener('keydown', close);
    return () => window.removeEventListener('keydown', close);
  }, []);
  const tray = status?.tray;
  const isEmpty = !tray || tray.links === 0;
  const showsList = open && !isEmpty;
  return (
    <section aria-label="Tray" className="shrink-0 border-t-2 border-primary bg-base-200">
      {showsList && (
        <div id="tray-list" className="max-h-[60vh] overflow-y-auto border-b border-base-300 bg-base-100">
          <TrayList site={site} />
        </div>
      )}
      <div className="figures flex h-11 items-center gap-4 px-4">
        <span className="font-semibold">Tray</span>
        <span data-testid="tray-figures">
          {isEmpty
            ? 'Nothing taken yet. Openings that you take gather here.'
            : `${count(tray.links, 'link')} on ${count(tray.pages, 'page')}`}
        </span>
        {tray && tray.warnings > 0 && (
          <span className="font-semibold text-accent">{count(tray.warnings, 'warning')}</span>
        )}
        {status?.releasing && (
          <span role="status">
            <span className="loading loading-dots loading-xs mr-1" aria-hidden="true" />A release is under way
          </span>
        )}
        <span className="ml-auto flex gap-2">
          {showsList && (
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={release.isPending || status?.releasing}
              onClick={() => release.mutate(undefined, { onSuccess: () => setOpen(false) })}
            >
              Release {count(tray.links, 'link')}
            </button>
          )}
          <button
            type="button"
            className={`btn btn-sm ${showsList ? 'btn-ghost' : 'btn-primary'}`}
            aria-expanded={showsList}
            aria-controls="tray-list"
            disabled={isEmpty}
            onClick={() => setOpen(!open)}
          >
            {showsList ? 'Close' : 'Review and release'}
          </button>
        </span>
      </div>
    </section>
  );
}
