import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { number } from '../../parts/words.ts';
import { beside, NO_NAME, type Shown } from './equityRows.ts';

const percent = (share: number) => `${(share * 100).toFixed(1)} %`;

/** The figures of the picture. */
export function EquityTable({ site, equity, shown }: { site: number; equity: Schema['SiteEquity']; shown: Shown }) {
  if (shown === 'categories' || shown === 'kinds') {
    return (
      <Table
        heads={['Pages', 'Share now', 'With the tray', 'Beside a fair share']}
        first={shown === 'kinds' ? 'Kind' : 'Category'}
      >
        {equity[shown].map((group) => (
          <tr key={group.name ?? ''} className="h-8 border-b border-base-300/60">
            <th scope="row" className="truncate px-2 text-left font-normal">
              {group.name ?? NO_NAME}
            </th>
            <td className={CELL}>{number(group.pages)}</td>
            <td className={CELL}>{percent(group.now)}</td>
            <td className={CELL}>{percent(group.after)}</td>
            <td className={CELL}>{beside(equity, group, group.after).toFixed(2)} ×</td>
          </tr>
        ))}
      </Table>
    );
  }
  return (
    <Table heads={['Now', 'With the tray', 'Depth']} first="Page">
      {equity[shown].map(({ page, now, after }) => (
        <tr key={page.number} className="h-8 border-b border-base-300/60">
          <th scope="row" className="title-link truncate px-2 text-left font-normal">
            <PageName site={site} page={page} />
          </th>
          <td className={CELL}>{now.toFixed(2)} ×</td>
          <td className={CELL}>{after.toFixed(2)} ×</td>
          <td className={CELL}>
            <Depth depth={page.depth} />
          </td>
        </tr>
      ))}
    </Table>
  );
}

const CELL = 'px-2 text-right whitespace-nowrap';

function Table({ first, heads, children }: { first: string; heads: string[]; children: React.ReactNode }) {
  return (
    <table className="w-full max-w-4xl table-fixed">
      <thead className="bg-base-200">
        <tr className="h-8">
          <th scope="col" className="w-2/5 px-2 text-left">
            {first}
          </th>
          {heads.map((head) => (
            <th key={head} scope="col" className="px-2 text-right">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}
