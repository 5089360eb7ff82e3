import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { answer, api } from '../../api/client.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { useSite } from '../../window/useSite.ts';
import { DeleteSite } from './DeleteSite.tsx';
import { SettingsForm } from './SettingsForm.tsx';
import { SiteLimits } from './SiteLimits.tsx';

/** What is set for the site, adding another, and deleting this one. */
export function SetupView() {
  const site = useSite();
  const [deletes, setDeletes] = useState(false);
  const settings = useQuery({
    queryKey: ['site', site, 'settings'],
    queryFn: () => answer(api.GET('/api/sites/{site}/settings', { params: { path: { site } } })),
  });
  if (settings.isError) {
    return <Failed isView error={settings.error} retry={() => void settings.refetch()} />;
  }
  if (!settings.data) {
    return <Loading what="Looking up what is set" />;
  }
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-3xl px-4 py-3">
        <header className="mb-3 flex items-center">
          <h1 className="font-serif text-xl font-semibold">Setup</h1>
          <Link to="/add" className="btn btn-sm btn-ghost ml-auto border-base-300">
            Add another site
          </Link>
        </header>
        <SettingsForm key={JSON.stringify(settings.data)} site={site} settings={settings.data} />
        <SiteLimits site={site} />
        <section className="mt-6 mb-4 rounded-box border border-accent px-4 py-3">
          <h2 className="mb-1 font-serif text-lg font-semibold">Delete this site from Strelm</h2>
          <p className="mb-2">
            Its pages, decisions, tray and history are deleted here. The site itself is not touched: links that are out
            stay out.
          </p>
          <button type="button" className="btn btn-sm btn-error" onClick={() => setDeletes(true)}>
            Delete …
          </button>
        </section>
      </div>
      {deletes && <DeleteSite site={site} name={settings.data.name} close={() => setDeletes(false)} />}
    </div>
  );
}
