import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { answer, api, type Schema } from '../../api/client.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { count } from '../../parts/words.ts';
import { Bars } from '../../pictures/Bars.tsx';
import { SavePicture } from '../../pictures/SavePicture.tsx';
import { useWidth } from '../../pictures/useWidth.ts';
import { FilterChip } from '../../table/Chips.tsx';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { SOON } from '../reach/useReach.ts';
import { EquityRules } from './EquityRules.tsx';
import { EquityTable } from './EquityTable.tsx';
import { rowsOf, SHOWN, type Shown } from './equityRows.ts';

/** Where link equity gathers and where it is lacking, before the tray and after. */
export function EquityView() {
  const site = useSite();
  const query = useQuery({
    queryKey: ['site', site, 'equity'],
    queryFn: () => answer(api.GET('/api/sites/{site}/reach/equity', { params: { path: { site } } })),
    refetchInterval: ({ state }) => (state.data?.is_settled === false || state.error ? SOON : false),
    placeholderData: keepPreviousData,
  });
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Weighing links" />;
  }
  return <Equity site={site} equity={query.data} />;
}

function Equity({ site, equity }: { site: number; equity: Schema['SiteEquity'] }) {
  const [shown, setShown] = useState<Shown>('categories');
  const picture = useRef<SVGSVGElement>(null);
  const [frame, width] = useWidth<HTMLDivElement>();
  const { rows, format, mark } = rowsOf(equity, shown);
  const offered = (Object.keys(SHOWN) as Shown[]).filter(
    (one) => (one !== 'moved' || equity.moved.length > 0) && (one !== 'categories' || equity.categories.length > 1),
  );
  return (
    <div className="h-full overflow-y-auto">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
        {offered.map((one) => (
          <FilterChip key={one} isOn={one === shown} press={() => setShown(one)}>
            {SHOWN[one]}
          </FilterChip>
        ))}
        <span className="ml-auto">
          <SavePicture picture={picture} name={`equity-${shown}`} />
        </span>
      </div>
      <div className="grid gap-x-6 gap-y-4 border-t border-base-300 px-4 py-3 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <div ref={frame} className="min-w-0">
          <p className="mb-2 text-secondary">
            {explained(shown)}{' '}
            {equity.with_tray ? (
              <>
                The lighter bar is the site as it stands, the darker one with{' '}
                {!equity.is_settled && '(being worked out) '}
                what is in the tray.
              </>
            ) : (
              'The tray changes nothing.'
            )}
          </p>
          {rows.length === 0 ? (
            <p>There is nothing to show.</p>
          ) : (
            <Bars
              rows={rows}
              withAfter={equity.with_tray}
              width={width}
              title={`Link equity by ${SHOWN[shown]}: the same figures stand in the table`}
              format={format}
              {...(mark && { mark })}
              picture={picture}
            />
          )}
        </div>
        <div className="min-w-0">
          <EquityRules site={site} rules={equity.rules} />
        </div>
        <div className="min-w-0 lg:col-span-2">
          <EquityTable site={site} equity={equity} shown={shown} />
          <p className="mt-2">
            <Link
              className="link link-primary"
              to={`/${site}/pages?sort=equity&columns=title,category,links_in,links_out,equity,depth`}
            >
              All{' '}
              {count(
                equity.kinds.reduce((sum, kind) => sum + kind.pages, 0),
                'page',
              )}{' '}
              by equity
            </Link>
          </p>
        </div>
      </div>
    </div>
  );
}

function explained(shown: Shown): string {
  switch (shown) {
    case 'categories':
    case 'kinds':
      return 'Equity beside the number of pages: 1 is a fair share; more hoards, less starves.';
    case 'most':
      return 'The pages that links favour most, beside the average page.';
    case 'least':
      return 'Pages with text that links favour least, beside the average page.';
    case 'moved':
      return 'The pages that the tray moves most, beside the average page.';
  }
}
