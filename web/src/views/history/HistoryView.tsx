import { useSearchParams } from 'react-router';
import { useSite } from '../../window/useSite.ts';
import { Readings } from './Readings.tsx';
import { Releases } from './Releases.tsx';

/** What went out to the site, and what readings found. */
export function HistoryView() {
  const site = useSite();
  const [search, setSearch] = useSearchParams();
  const showsReadings = search.get('show') === 'readings';
  const choose = (readings: boolean) => setSearch(readings ? { show: 'readings' } : {}, { replace: true });
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-5xl px-4 py-3">
        <div className="mb-3 flex items-center gap-3">
          <h1 className="font-serif text-xl font-semibold">History</h1>
          <Choice isOn={!showsReadings} choose={() => choose(false)}>
            Releases
          </Choice>
          <Choice isOn={showsReadings} choose={() => choose(true)}>
            Readings
          </Choice>
        </div>
        {showsReadings ? <Readings site={site} /> : <Releases site={site} />}
      </div>
    </div>
  );
}

function Choice({ isOn, choose, children }: { isOn: boolean; choose: () => void; children: string }) {
  return (
    <button
      type="button"
      aria-pressed={isOn}
      className={`btn btn-sm rounded-full ${isOn ? 'btn-primary' : 'btn-ghost border-base-300'}`}
      onClick={choose}
    >
      {children}
    </button>
  );
}
