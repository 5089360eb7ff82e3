import { Link } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { count, number } from '../../parts/words.ts';
import { Line } from './Line.tsx';

/** Groups of pages out of reach that hang together: one link to each is enough. */
export function Islands({ site, islands }: { site: number; islands: Schema['IslandLine'] }) {
  return (
    <Line
      title={`${count(islands.total, 'island')} of ${count(islands.pages, 'page')}`}
      why="They link among themselves, and no way leads there. One link to the page named opens most of each."
      action={
        <Link className="link link-primary" to={`/${site}/reach?only=islands`}>
          See {islands.total === 1 ? 'it' : 'them'} in Reach
        </Link>
      }
    >
      <ul className="mt-1.5">
        {islands.first.map((island) => (
          <li key={island.gate.number} className="figures flex flex-wrap items-baseline gap-x-3 py-0.5">
            <span className="title-link">
              <PageName site={site} page={island.gate} />
            </span>
            <span className="text-secondary">{island.gate.path}</span>
            <span className="ml-auto text-secondary">
              opens {number(island.opened)} of {number(island.size)}
            </span>
            <Link className="link link-primary leading-6" to={`/${site}/reach?pages=${island.gate.number}`}>
              Rescue<span className="sr-only"> {island.gate.title}</span>
            </Link>
          </li>
        ))}
      </ul>
    </Line>
  );
}

/** Pages with others behind them to which all ways lead over one link or one page. */
export function Threads({ site, threads }: { site: number; threads: Schema['ThreadLine'] }) {
  return (
    <Line
      title={`${count(threads.total, 'page hangs', 'pages hang')} on a thread`}
      why="All ways there lead over one link, or over one page. Without it they are lost, and others with them."
      action={
        <Link className="link link-primary" to={`/${site}/reach?only=threads`}>
          See {threads.total === 1 ? 'it' : 'them'} in Reach
        </Link>
      }
    >
      <ul className="mt-1.5">
        {threads.first.map((thread) => (
          <li key={thread.page.number} className="figures flex flex-wrap items-baseline gap-x-1.5 py-0.5">
            <span className="title-link">
              <PageName site={site} page={thread.page} />
            </span>
            <span className="text-secondary">over {thread.by_link ? 'one link of' : ''}</span>
            <span className="title-link">
              <PageName site={site} page={thread.over} />
            </span>
            <span className="ml-auto text-secondary">{count(thread.hanging, 'page hangs', 'pages hang')} on it</span>
            <Link
              className="link link-primary ml-1.5 leading-6"
              to={`/${site}/reach?second-way=&pages=${thread.page.number}`}
            >
              Find a second way<span className="sr-only"> to {thread.page.title}</span>
            </Link>
          </li>
        ))}
      </ul>
    </Line>
  );
}

interface ReachChangesProps {
  site: number;
  rows: readonly Schema['ReachEditRow'][];
  /** How many pages; the rows name those of the first few edits. */
  total: number;
  came: boolean;
}

/** What came within reach with the latest reading, or was lost, and by which edit. */
export function ReachChanges({ site, rows, total, came }: ReachChangesProps) {
  return (
    <Line
      isUrgent={!came}
      title={`${count(total, 'page')} ${came ? 'came within reach' : 'lost since the reading before'}`}
      why={
        came
          ? 'Since the reading before, ways lead there.'
          : 'They could be reached then. The edits that took their ways away:'
      }
    >
      <ul className="mt-1.5">
        {rows.map((row) => (
          <li key={`${row.edit}-${row.from?.number}-${row.to?.number}`} className="py-0.5">
            <Edit site={site} row={row} came={came} />{' '}
            <span className="figures text-secondary">
              {row.pages
                .slice(0, 3)
                .map((page) => page.title)
                .join(', ')}
              {row.total > 3 && ` and ${number(row.total - 3)} more`}
            </span>
          </li>
        ))}
      </ul>
    </Line>
  );
}

function Edit({ site, row, came }: { site: number; row: Schema['ReachEditRow']; came: boolean }) {
  const name = (page: Schema['PageRef'] | null | undefined) =>
    page ? <PageName site={site} page={page} /> : 'a page that is gone';
  switch (row.edit) {
    case 'link':
      return (
        <>
          {name(row.from)} {came ? 'links to' : 'no longer links to'} {name(row.to)}:
        </>
      );
    case 'redirect':
      return (
        <>
          A link of {name(row.from)} no longer gets to {name(row.to)}, its address leads elsewhere:
        </>
      );
    case 'page':
      return (
        <>
          {name(row.to)} {came ? 'is new' : 'was taken off the site'}:
        </>
      );
    case 'entry':
      return (
        <>
          Readers {came ? 'start' : 'no longer start'} at {name(row.to)}:
        </>
      );
  }
}
