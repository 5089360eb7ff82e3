import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { useDecisions } from '../../decisions/context.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { Failed, Loading } from '../../parts/states.tsx';
import { count, number } from '../../parts/words.ts';
import { TargetChoice } from '../desk/TargetChoice.tsx';

interface Props {
  site: number;
  row: Schema['FaultRow'];
  close: () => void;
}

type How = { to: Schema['PageRef'] } | 'other' | 'off';

/** All places of one faulty address, looked at before they are mended together. */
export function MendAll({ site, row, close }: Props) {
  const { decide } = useDecisions();
  const fragment = row.fragment ?? null;
  const places = useQuery({
    queryKey: ['site', site, 'faults', row.address, fragment],
    queryFn: () =>
      answer(
        api.GET('/api/sites/{site}/faults/places', {
          params: { path: { site }, query: { address: row.address, ...(fragment === null ? {} : { fragment }) } },
        }),
      ),
  });
  const [chosen, setHow] = useState<How>();
  const likeliest = places.data?.likeliest;
  const how = chosen ?? (likeliest ? { to: likeliest } : 'other');
  const mendable = (places.data?.pages ?? []).filter((page) => page.version && page.places.length > 0);
  const all = mendable.reduce((sum, page) => sum + page.places.length, 0);
  const mend = () => {
    decide(
      {
        kind: 'repair_all',
        pages: mendable.map((page) => ({ source: page.page.number, version: page.version ?? '' })),
        address: row.address,
        fragment,
        target: typeof how === 'object' ? how.to.number : null,
      },
      row.to,
    );
    close();
  };
  const isAfter = how === 'off' ? 'nothing' : 'link';
  return (
    <Dialog title={`Mend the links to ${row.to}`} close={close} width="max-w-3xl">
      <div className="border-b border-base-300 px-4 py-3">
        <fieldset>
          <legend className="mb-1 text-xs font-semibold text-secondary">All of them</legend>
          {likeliest && (
            <Way
              isOn={typeof how === 'object' && how.to.number === likeliest.number}
              set={() => setHow({ to: likeliest })}
            >
              come to lead to <PageName site={site} page={likeliest} />{' '}
              <span className="text-secondary">{likeliest.path}, which they were likely meant for</span>
            </Way>
          )}
          {typeof how === 'object' && how.to.number !== likeliest?.number && (
            <Way isOn set={() => undefined}>
              come to lead to <PageName site={site} page={how.to} />{' '}
              <span className="text-secondary">{how.to.path}</span>
            </Way>
          )}
          <Way isOn={how === 'other'} set={() => setHow('other')}>
            come to lead to a page that you choose
          </Way>
          <Way isOn={how === 'off'} set={() => setHow('off')}>
            are taken off their words
          </Way>
        </fieldset>
        {how === 'other' && (
          <TargetChoice
            site={site}
            targets={[]}
            source={0}
            verb="Point to"
            what="address"
            choose={(page) => setHow({ to: page })}
          />
        )}
      </div>
      <div className="max-h-[46vh] overflow-y-auto px-4 py-2">
        {places.isError && <Failed error={places.error} retry={() => void places.refetch()} />}
        {places.isPending && <Loading what="Looking up the places" />}
        {places.data && places.data.total > places.data.pages.length && (
          <p className="py-1 text-secondary">
            The first {number(places.data.pages.length)} of {number(places.data.total)} pages, those that most readers
            meet. The next are here when these are mended.
          </p>
        )}
        {mendable.map((page) => (
          <section key={page.page.number} className="mb-2">
            <h3>
              <PageName site={site} page={page.page} /> <span className="text-secondary">{page.page.path}</span>
            </h3>
            <ul>
              {page.places.map((sentence, at) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a page may have the same sentence twice
                <li key={at} className="border-l-4 border-base-300 py-0.5 pl-2">
                  <SentenceText sentence={sentence} carries={isAfter} />
                </li>
              ))}
            </ul>
          </section>
        ))}
        {places.data && places.data.around_total > 0 && (
          <p className="py-2 text-secondary">
            {count(places.data.around_total, 'page has it', 'pages have it')} around the text, in the template that they
            share: change it there.{' '}
            {places.data.around.slice(0, 3).map((page) => (
              <span key={page.number} className="mr-2">
                <PageName site={site} page={page} />
              </span>
            ))}
          </p>
        )}
      </div>
      <footer className="flex items-center gap-3 border-t border-base-300 bg-base-200 px-4 py-2">
        <p className="text-secondary">They go into the tray. One undo (U) takes them all out again.</p>
        <button
          type="button"
          className="btn btn-sm btn-primary ml-auto"
          disabled={mendable.length === 0 || how === 'other'}
          onClick={mend}
        >
          Mend {count(all, 'link')} on {count(mendable.length, 'page')}
        </button>
      </footer>
    </Dialog>
  );
}

function Way({ isOn, set, children }: { isOn: boolean; set: () => void; children: React.ReactNode }) {
  return (
    <label className="flex items-baseline gap-2 py-0.5">
      <input type="radio" name="how" className="radio radio-sm translate-y-0.5" checked={isOn} onChange={set} />
      <span>{children}</span>
    </label>
  );
}
