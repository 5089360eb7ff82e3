import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useRef } from 'react';
import { useSearchParams } from 'react-router';
import { answer, api, type Schema } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import { count, number } from '../../parts/words.ts';
import { Matrix } from '../../pictures/Matrix.tsx';
import { SavePicture } from '../../pictures/SavePicture.tsx';
import { useWidth } from '../../pictures/useWidth.ts';
import { FilterChip } from '../../table/Chips.tsx';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { SOON } from '../reach/useReach.ts';

type By = 'category' | 'kind';

/** How links lead from subject to subject. */
export function FlowView() {
  const site = useSite();
  const [search, setSearch] = useSearchParams();
  const by: By = search.get('by') === 'kind' ? 'kind' : 'category';
  const around = search.get('links') === 'all';
  const set = (change: { by?: By; around?: boolean }) => {
    const wish = { by, around, ...change };
    const entries = [...(wish.by === 'kind' ? [['by', 'kind']] : []), ...(wish.around ? [['links', 'all']] : [])];
    setSearch(entries as [string, string][], { replace: true });
  };
  const query = useQuery({
    queryKey: ['site', site, 'flow', by, around],
    queryFn: () =>
      answer(api.GET('/api/sites/{site}/reach/flow', { params: { path: { site }, query: { by, around } } })),
    refetchInterval: ({ state }) => (state.data?.is_settled === false || state.error ? SOON : false),
    placeholderData: keepPreviousData,
  });
  const picture = useRef<SVGSVGElement>(null);
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Following links" />;
  }
  return (
    <div className="h-full overflow-y-auto">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
        {(['category', 'kind'] as const).map((one) => (
          <FilterChip key={one} isOn={by === one} press={() => set({ by: one })}>
            {one === 'kind' ? 'by kind' : 'by category'}
          </FilterChip>
        ))}
        <FilterChip isOn={around} press={() => set({ around: !around })}>
          menus and footers too
        </FilterChip>
        <span className="ml-auto">
          <SavePicture picture={picture} name={`flow-by-${by}`} />
        </span>
      </div>
      <Flow site={site} flow={query.data} picture={picture} by={by} around={around} />
    </div>
  );
}

interface FlowProps {
  site: number;
  flow: Schema['LinkFlow'];
  picture: React.RefObject<SVGSVGElement | null>;
  by: By;
  around: boolean;
}

function Flow({ site, flow, picture, by, around }: FlowProps) {
  const [frame, width] = useWidth<HTMLDivElement>();
  const names = flow.groups.map((group) => group.name ?? (by === 'category' ? 'without a category' : 'others'));
  if (flow.groups.length < 2) {
    return (
      <Empty title="There is only one group.">
        {by === 'category' ? 'The pages of this site name no categories. Look at their kinds instead.' : ''}
      </Empty>
    );
  }
  const show = (row: number) => document.getElementById(`flow-${row}`)?.scrollIntoView({ block: 'center' });
  return (
    <div className="border-t border-base-300 px-4 py-3">
      <div ref={frame} className="max-w-4xl">
        <p className="mb-1 text-secondary">
          Pairs of pages that {around ? 'links' : 'links in their text'} connect, from each row to each column; the
          framed cells stay within.
        </p>
        <Matrix
          names={names}
          cells={flow.cells.map(({ from, to, links }) => ({ from, to, value: links }))}
          width={width}
          title="Links from group to group: the same figures stand in the table below"
          picture={picture}
          choose={({ from }) => show(from)}
        />
      </div>
      <h2 className="mt-4 mb-1 font-semibold">Where links lead</h2>
      <table className="w-full max-w-4xl">
        <thead className="bg-base-200">
          <tr className="h-8">
            <th scope="col" className="px-2 text-left">
              {by === 'category' ? 'Category' : 'Kind'}
            </th>
            <th scope="col" className="px-2 text-right">
              Pages
            </th>
            <th scope="col" className="px-2 text-right">
              Links
            </th>
            <th scope="col" className="px-2 text-right">
              Stay within
            </th>
            <th scope="col" className="px-2 text-left">
              Most lead to
            </th>
          </tr>
        </thead>
        <tbody>
          {flow.groups.map((group, at) => (
            <tr key={group.name ?? ''} id={`flow-${at}`} className="h-8 border-b border-base-300/60">
              <th scope="row" className="px-2 text-left font-normal">
                {names[at]}
              </th>
              <td className="px-2 text-right">{number(group.pages)}</td>
              <td className="px-2 text-right">{number(group.links)}</td>
              <td className="px-2 text-right">
                {group.links === 0 ? '–' : `${Math.round((100 * group.inside) / group.links)} %`}
              </td>
              <td className="px-2">{most(flow, at, names)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2 className="mt-4 mb-1 font-semibold">
        {count(flow.stray_count, 'page leaves its subject', 'pages leave their subject')} with every link
      </h2>
      {flow.stray_count === 0 ? (
        <p className="text-secondary">Every page that links also links within its own.</p>
      ) : (
        <ul className="max-w-4xl gap-6 sm:columns-2">
          {flow.strays.map((page) => (
            <li key={page.number} className="flex h-6 items-center gap-2">
              <span className="title-link min-w-0 truncate">
                <PageName site={site} page={page} />
              </span>
              <span className="text-secondary">{page.category}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** The groups to which most links of a group lead. */
function most(flow: Schema['LinkFlow'], row: number, names: string[]): string {
  const others = flow.cells.filter((cell) => cell.from === row && cell.to !== row);
  const sorted = others.sort((one, other) => other.links - one.links).slice(0, 3);
  return sorted.map((cell) => `${names[cell.to]} ${number(cell.links)}`).join(', ') || '–';
}
