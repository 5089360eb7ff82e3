import { useQuery } from '@tanstack/react-query';
import { PageName } from '../../parts/PageName.tsx';
import { count } from '../../parts/words.ts';
import { bridges } from './useDesk.ts';

/** Where no words carry a link: pages that are about the same, and the paragraph after which a sentence would fit. */
export function Bridges({ site, page, inbound }: { site: number; page: number; inbound: boolean }) {
  const query = useQuery(bridges(site, page, inbound));
  if (!query.data || query.data.length === 0) {
    return null;
  }
  return (
    <details className="mt-2 rounded-box border border-base-300 bg-base-100 p-2 text-[0.8125rem]">
      <summary className="cursor-pointer font-semibold leading-6">
        {inbound
          ? count(query.data.length, 'page is', 'pages are')
          : count(query.data.length, 'place is', 'places are')}{' '}
        about the same without words for a link
      </summary>
      <p className="mt-1 text-secondary">A sentence of your own could lead there, after this paragraph:</p>
      <ul className="mt-1 flex flex-col gap-2">
        {query.data.map((row) => (
          <li key={`${row.source}-${row.target}`} className="border-l-4 border-depth-1 pl-2">
            <PageName site={site} page={row.page} />
            <p className="line-clamp-3 font-serif">{row.after}</p>
            <p className="text-xs text-secondary">
              both have {row.shared.map((word) => `“${word}”`).join(', ')}
              {row.links > 0 && ` · ${row.links} ${row.links === 1 ? 'link' : 'links'} there already`}
            </p>
          </li>
        ))}
      </ul>
    </details>
  );
}
