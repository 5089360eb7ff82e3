import { useEffect } from 'react';
import { Outlet } from 'react-router';
import { useJournal } from '../api/useJournal.ts';
import { Notices } from '../parts/Notices.tsx';
import { Failed } from '../parts/states.tsx';
import { Tray } from '../tray/Tray.tsx';
import { ReadingStrip } from './ReadingStrip.tsx';
import { TopBar } from './TopBar.tsx';
import { useSite, useSiteStatus } from './useSite.ts';

/** The window: the bar at the top, a view, and the tray at the foot. */
export function SiteWindow() {
  const site = useSite();
  const connected = useJournal(site);
  const status = useSiteStatus();
  const name = status.data?.name;
  useEffect(() => {
    document.title = name ? `${name} · Strelm` : 'Strelm';
  }, [name]);
  if (status.isError && !status.data) {
    return <Failed error={status.error} retry={() => void status.refetch()} />;
  }
  return (
    <div className="flex h-full flex-col">
      <TopBar />
      {!connected && (
        <p className="bg-warning px-4 py-1 text-warning-content" role="status">
          The connection to Strelm is lost; what you see may be out of date. It comes back by itself.
        </p>
      )}
      <ReadingStrip />
      <main className="min-h-0 flex-1">
        <Outlet />
      </main>
      <Notices />
      <Tray />
    </div>
  );
}
