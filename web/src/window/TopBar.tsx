import { useQuery } from '@tanstack/react-query';
import { Link, NavLink, useLocation, useNavigate } from 'react-router';
import { answer, api } from '../api/client.ts';
import { count, number } from '../parts/words.ts';
import { useReadings } from './actions.ts';
import { lastUsed } from './lastUsed.ts';
import { useTheme } from './theme.ts';
import { useSite, useSiteStatus } from './useSite.ts';
import { SHOWN_GROUPS, viewAt, viewsOf } from './views.ts';

interface Props {
  find: () => void;
  showKeys: () => void;
}

export function TopBar({ find, showKeys }: Props) {
  const site = useSite();
  return (
    <header className="flex min-h-12 shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-base-300 bg-base-200 px-4 py-1.5">
      <Link to={`/${site}/today`} className="flex items-center gap-1.5 font-serif text-lg font-semibold">
        <img src="/sounding.svg" alt="" className="size-5" />
        Strelm
      </Link>
      <SiteSwitcher />
      <Groups />
      <button
        type="button"
        className="flex min-w-0 items-center gap-2 rounded border border-base-300 bg-base-100 px-2 py-1 text-secondary"
        aria-label="Find anything"
        onClick={find}
      >
        Find
        <kbd className="kbd kbd-xs">/</kbd>
      </button>
      <SiteFigures />
      <NavLink
        to={`/${site}/setup`}
        className={({ isActive }) =>
          `rounded px-2 py-1 hover:bg-base-300 ${isActive ? 'bg-base-300 font-semibold' : ''}`
        }
      >
        Setup
      </NavLink>
      <ThemeSwitch />
      <button
        type="button"
        className="btn btn-sm btn-ghost px-2"
        aria-label="All keys"
        title="All keys"
        onClick={showKeys}
      >
        ?
      </button>
    </header>
  );
}

/** The groups of views; a press goes to the one that was used last. */
function Groups() {
  const site = useSite();
  const current = viewAt(useLocation().pathname)?.group;
  return (
    <nav aria-label="Groups of views" className="flex">
      {SHOWN_GROUPS.map((group) => (
        <Link
          key={group}
          to={lastUsed(site, group)}
          aria-current={group === current ? 'location' : undefined}
          title={viewsOf(group)
            .map((view) => view.name)
            .join(', ')}
          className={`rounded px-2 py-1 hover:bg-base-300 ${group === current ? 'bg-base-300 font-semibold' : ''}`}
        >
          {group}
        </Link>
      ))}
    </nav>
  );
}

function ThemeSwitch() {
  const [theme, setTheme] = useTheme();
  const other = theme === 'dark' ? 'light' : 'dark';
  return (
    <button
      type="button"
      className="btn btn-sm btn-ghost px-2"
      aria-label={`Switch to the ${other} theme`}
      title={`Switch to the ${other} theme`}
      onClick={() => setTheme(other)}
    >
      <svg viewBox="0 0 16 16" className="size-4" aria-hidden="true">
        {theme === 'dark' ? (
          <g fill="none" stroke="currentColor" strokeWidth="1.5">
            <circle cx="8" cy="8" r="3" />
            <path d="M8 1v2M8 13v2M1 8h2M13 8h2M3 3l1.4 1.4M11.6 11.6L13 13M13 3l-1.4 1.4M4.4 11.6L3 13" />
          </g>
        ) : (
          <path d="M13.5 9.8A6 6 0 0 1 6.2 2.5 6 6 0 1 0 13.5 9.8z" fill="currentColor" />
        )}
      </svg>
    </button>
  );
}

const ADD = 'add';

function SiteSwitcher() {
  const site = useSite();
  const navigate = useNavigate();
  const sites = useQuery({ queryKey: ['sites'], queryFn: () => answer(api.GET('/api/sites')), staleTime: 5000 });
  return (
    <select
      className="select select-sm w-auto max-w-48 bg-base-100"
      aria-label="Site"
      value={site}
      onChange={(event) => void navigate(event.target.value === ADD ? '/add' : `/${event.target.value}/today`)}
    >
      {(sites.data ?? []).map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
      <option value={ADD}>Add a site …</option>
    </select>
  );
}

/** The site in figures, each a way to the rows behind it, and the order to read it again. */
function SiteFigures() {
  const site = useSite();
  const status = useSiteStatus().data;
  const { read } = useReadings(site);
  if (!status) {
    return <span className="ml-auto" />;
  }
  const phase = status.reading?.phase;
  const isReading = phase === 'waiting' || phase === 'running' || phase === 'stopping';
  return (
    <div className="figures ml-auto flex flex-wrap items-center gap-x-3">
      <Link className="inline-flex min-h-6 items-center hover:underline" to={`/${site}/pages`}>
        {count(status.pages, 'page')}
      </Link>
      <Link className="inline-flex min-h-6 items-center hover:underline" to={`/${site}/pages?only=orphans`}>
        {count(status.orphans, 'orphan')}
      </Link>
      <Link
        className={`inline-flex min-h-6 items-center hover:underline ${status.unreachable > 0 ? 'font-semibold text-accent' : ''}`}
        to={`/${site}/pages?only=unreachable`}
      >
        {number(status.unreachable)} unreachable
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
