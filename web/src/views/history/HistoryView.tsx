import { Tabs } from '@base-ui/react/tabs';
import { useSearchParams } from 'react-router';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { Readings } from './Readings.tsx';
import { Releases } from './Releases.tsx';

/** What went out to the site, and what readings found. */
export function HistoryView() {
  const site = useSite();
  const [search, setSearch] = useSearchParams();
  const shown = search.get('show') === 'readings' ? 'readings' : 'releases';
  return (
    <div className="h-full overflow-y-auto">
      <Tabs.Root
        className="mx-auto max-w-5xl px-4 py-3"
        value={shown}
        onValueChange={(show) => setSearch(show === 'readings' ? { show } : {}, { replace: true })}
      >
        <div className="mb-3 flex items-center gap-3">
          <ViewTabs />
          <Tabs.List aria-label="What happened" className="flex gap-3">
            <Tabs.Tab value="releases" className={TAB}>
              Releases
            </Tabs.Tab>
            <Tabs.Tab value="readings" className={TAB}>
              Readings
            </Tabs.Tab>
          </Tabs.List>
        </div>
        <Tabs.Panel value="releases">
          <Releases site={site} />
        </Tabs.Panel>
        <Tabs.Panel value="readings">
          <Readings site={site} />
        </Tabs.Panel>
      </Tabs.Root>
    </div>
  );
}

const TAB = (tab: { active: boolean }) =>
  `btn btn-sm rounded-full ${tab.active ? 'btn-primary' : 'btn-ghost border-base-300'}`;
