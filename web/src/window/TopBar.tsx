import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, NavLink, useNavigate } from 'react-router';
import { answer, api } from '../api/client.ts';
import { count } from '../parts/words.ts';
import { useSite, useSiteStatus } from './useSite.ts';

export function TopBar() {
  const site = useSite();
  return (
    <header className="flex h-12 shrink-0 items-center gap-5 border-b border-base-300 bg-base-200 px-4">
      <Link to={`/${site}/pages`} className="flex items-center gap-1.5 font-serif text-lg font-semibold">
        <img src="/sounding.svg" alt="" className="size-5" />
        Strelm
      </Link>
      <SiteSwitcher />
      <nav aria-label="Views" className="flex gap-1">
        <View to={`/${site}/pages`}>Pages</View>
        <View to={`/${site}/history`}>History</View>
      </nav>
      <SiteFigures />
    </header>
  );
}

function View({ to, children }: { to: string; children: string }) {
  return (
    <NavLink
      to={to}
      className={({ isActive }) => `rounded px-3 py-1 hover:bg-base-300 ${isActive ? 'bg-base-300 font-semibold' : ''}`}
    >
      {children}
    </NavLink>
  );
}

function SiteSwitcher() {
  const site = useSite();
  const navigate = useNavigate();
  const sites = useQuery({ queryKey: ['sites'], queryFn: () => answer(api.GET('/api/sites')) });
  const current = sites.data?.find((one) => one.id === site);
  if (!sites.data || sites.data.length < 2) {
    return <span className="text-secondary">{current?.name}</span>;
  }
  return (
    <select
      className="select select-sm w-auto"
      aria-label="Site"
      value={site}
      onChange={(event) => void navigate(`/${event.target.value}/pages`)}
    >
      {sites.data.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
    </select>
  );
}

/** The site in figures, each a way to the rows behind it, and the order to read it again. */
function SiteFigures() {
  const site = useSite();
  const status = useSiteStatus().data;
  const read = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/readings', { params: { path: { site } } })),
  });
  if (!status) {
    return null;
  }
  const isReading = status.reading?.phase === 'waiting' || status.reading?.phase === 'running';
  return (
    <div className="figures ml-auto flex items-center gap-4">
      <Link className="hover:underline" to={`/${site}/pages`}>
        {count(status.pages, 'page')}
      </Link>
      <Link className="hover:underline" to={`/${site}/pages?only=orphans`}>
        {count(status.orphans, 'orphan')}
      </Link>
      <Link
        className={`hover:underline ${status.unreachable > 0 ? 'font-semibold text-accent' : ''}`}
        to={`/${site}/pages?only=unreachable`}
      >
        {status.unreachable.toLocaleString('en')} unreachable
      </Link>
      <button
        type="button"
        className="btn btn-sm btn-ghost border-base-300"
        disabled={isReading || read.isPending}
        onClick={() => read.mutate()}
      >
        {isReading ? 'Reading…' : 'Read again'}
      </button>
    </div>
  );
}
