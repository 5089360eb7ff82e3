import { Suspense, useEffect, useState } from 'react';
import { Outlet } from 'react-router';
import { useJournal } from '../api/useJournal.ts';
import { useDecisions } from '../decisions/context.ts';
import { DecisionsProvider } from '../decisions/DecisionsProvider.tsx';
import { useKeys } from '../parts/keys.ts';
import { later } from '../parts/later.ts';
import { Notices } from '../parts/Notices.tsx';
import { Failed } from '../parts/states.tsx';
import { ViewBoundary } from '../parts/ViewBoundary.tsx';
import { Tray } from '../tray/Tray.tsx';
import { GettingReady } from './GettingReady.tsx';
import { useNoteOfUse } from './lastUsed.ts';
import { ReadingStrip } from './ReadingStrip.tsx';
import { TextsStrip } from './TextsStrip.tsx';
import { TopBar } from './TopBar.tsx';
import { useSite, useSiteStatus } from './useSite.ts';
import { useViewKeys } from './useViewKeys.ts';

const FindBox = later(() => import('./FindBox.tsx').then((part) => part.FindBox));
const KeySheet = later(() => import('./KeySheet.tsx').then((part) => part.KeySheet));

/** The window: the bar at the top, a view, and the tray at the foot. */
export function SiteWindow() {
  const site = useSite();
  return (
    <GettingReady key={site} site={site}>
      <DecisionsProvider site={site}>
        <Frame site={site} />
      </DecisionsProvider>
    </GettingReady>
  );
}

type Over = 'find' | 'keys' | null;

function Frame({ site }: { site: number }) {
  const { undo, redo, nudge, asked } = useDecisions();
  const connected = useJournal(site, { nudge, asked });
  const status = useSiteStatus();
  const [over, setOver] = useState<Over>(null);
  const name = status.data?.name;
  useEffect(() => {
    document.title = name ? `${name} · Strelm` : 'Strelm';
  }, [name]);
  useViewKeys(site);
  useNoteOfUse(site);
  useKeys({ '/': () => setOver('find'), '?': () => setOver('keys'), u: undo, 'shift+u': redo });
  useEffect(() => {
    const find = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setOver('find');
      }
    };
    window.addEventListener('keydown', find);
    return () => window.removeEventListener('keydown', find);
  }, []);
  if (status.isError && !status.data) {
    return (
      <main>
        <Failed isView error={status.error} retry={() => void status.refetch()} />
      </main>
    );
  }
  return (
    // In a low window the view keeps some room, whatever is told above it, and the window scrolls.
    <div className="flex h-full flex-col overflow-y-auto">
      <a
        href="#view"
        className="sr-only z-40 rounded bg-primary px-3 py-1 text-primary-content focus:not-sr-only focus:absolute focus:top-2 focus:left-2"
      >
        Skip to the view
      </a>
      <TopBar find={() => setOver('find')} showKeys={() => setOver('keys')} />
      {!connected && (
        <p className="bg-warning px-4 py-1 text-warning-content" role="status">
          The connection to Strelm is lost; what you see may be out of date. What you decide meanwhile is kept here and
          sent when it is back.
        </p>
      )}
      <ReadingStrip />
      <TextsStrip />
      <main id="view" tabIndex={-1} className="min-h-40 flex-1 outline-none">
        <ViewBoundary>
          <Outlet />
        </ViewBoundary>
      </main>
      <Notices />
      <Tray />
      {/* The keys are not the view's any more, though what they open is still on its way. */}
      <Suspense fallback={<div role="dialog" aria-label="Opening" className="sr-only" />}>
        {over === 'find' && <FindBox close={() => setOver(null)} showKeys={() => setOver('keys')} />}
        {over === 'keys' && <KeySheet close={() => setOver(null)} />}
      </Suspense>
    </div>
  );
}
