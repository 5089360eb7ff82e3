import { Suspense, useEffect, useState } from 'react';
import { Link } from 'react-router';
import { OnTheWay } from '../decisions/OnTheWay.tsx';
import { isOverlaid } from '../parts/keys.ts';
import { later } from '../parts/later.ts';
import { Loading } from '../parts/states.tsx';
import { count } from '../parts/words.ts';
import { useSite, useSiteStatus } from '../window/useSite.ts';
import { useRelease } from './useTray.ts';

const TrayList = later(() => import('./TrayList.tsx').then((part) => part.TrayList));

/** One line at the foot of the window that opens upward into everything taken and not yet out. */
export function Tray() {
  const site = useSite();
  const status = useSiteStatus().data;
  const [open, setOpen] = useState(false);
  const release = useRelease(site, status?.way);
  useEffect(() => {
    const close = (event: KeyboardEvent) => event.key === 'Escape' && !isOverlaid() && setOpen(false);
    const show = () => setOpen(true);
    window.addEventListener('keydown', close);
    window.addEventListener('strelm:tray', show);
    return () => {
      window.removeEventListener('keydown', close);
      window.removeEventListener('strelm:tray', show);
    };
  }, []);
  const tray = status?.tray;
  const isEmpty = !tray || tray.links === 0;
  const showsList = open && !isEmpty;
  const isHandedOver = status?.way === 'handed_over';
  const isStuck = status?.releasing || status?.interrupted;
  return (
    <section aria-label="Tray" className="shrink-0 border-t-2 border-primary bg-base-200">
      {showsList && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a list that scrolls must be reachable by keyboard
        <div id="tray-list" tabIndex={0} className="max-h-[60vh] overflow-y-auto border-b border-base-300 bg-base-100">
          <Suspense fallback={<Loading what="Opening the tray" />}>
            <TrayList site={site} />
          </Suspense>
        </div>
      )}
      <div className="figures flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 px-4 py-1">
        <span className="font-semibold">Tray</span>
        <span data-testid="tray-figures">
          {isEmpty
            ? 'Nothing taken yet. Openings that you take gather here.'
            : `${count(tray.links, 'link')} on ${count(tray.pages, 'page')}`}
        </span>
        {tray && tray.warnings > 0 && (
          <span className="font-semibold text-accent">{count(tray.warnings, 'warning')}</span>
        )}
        <OnTheWay />
        {status?.releasing && (
          <span role="status">
            <span className="loading loading-dots loading-xs mr-1" aria-hidden="true" />A release is under way
          </span>
        )}
        {tray && tray.handed_over > 0 && (
          <Link className="link-hover text-secondary" to={`/${site}/history`}>
            {count(tray.handed_over, 'link')} handed over, not seen on the site yet
          </Link>
        )}
        {status?.interrupted && (
          <Link className="font-semibold text-accent underline" to={`/${site}/history`}>
            A release is interrupted
          </Link>
        )}
        <span className="ml-auto flex gap-2">
          {showsList && status && (
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={release.isPending || isStuck}
              onClick={() => release.mutate(undefined, { onSuccess: () => setOpen(false) })}
            >
              {isHandedOver ? 'Hand over' : 'Release'} {count(tray.links, 'link')}
            </button>
          )}
          <button
            type="button"
            className={`btn btn-sm ${showsList ? 'btn-ghost' : 'btn-primary'}`}
            aria-expanded={showsList}
            aria-controls={showsList ? 'tray-list' : undefined}
            disabled={isEmpty}
            onClick={() => setOpen(!open)}
          >
            {showsList ? 'Close' : isHandedOver ? 'Review and hand over' : 'Review and release'}
          </button>
        </span>
      </div>
    </section>
  );
}
