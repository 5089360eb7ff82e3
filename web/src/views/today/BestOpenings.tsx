import { Link } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { FitCells } from '../desk/FitBar.tsx';
import { useDeskDecisions } from '../desk/useDesk.ts';
import { Line } from './Line.tsx';

/** The best openings of the site, one for each page, to be taken or passed at once. */
export function BestOpenings({ site, rows }: { site: number; rows: Schema['BestOpening'][] }) {
  const { take, pass, isDecided } = useDeskDecisions();
  const shown = rows.filter(({ opening }) => !isDecided(opening));
  if (shown.length === 0) {
    return null;
  }
  return (
    <Line
      title="The best openings of the site"
      why="One for each page. Where a link gains most, and where these words are most likely meant as the page."
      action={
        <Link className="link link-primary" to={`/${site}/pages?only=offered&sort=attention`}>
          Pages with openings
        </Link>
      }
    >
      <ul className="mt-1.5">
        {shown.map(({ source, opening }) => (
          <li
            key={`${opening.source}-${opening.target}`}
            data-testid="best-opening"
            className="flex items-start gap-3 border-t border-base-300/60 py-1.5"
          >
            <span className="figures flex w-20 shrink-0 items-end gap-1 pt-0.5" title="Fit">
              <FitCells opening={opening} />
              <b>{Math.round(opening.fit)}</b>
            </span>
            <span className="min-w-0 flex-1">
              <SentenceText sentence={opening.sentence} carries="could" />
              <span className="block text-secondary">
                on <PageName site={site} page={source} /> to <PageName site={site} page={opening.page} />
              </span>
            </span>
            <span className="flex gap-1.5">
              <button
                type="button"
                className="btn btn-xs btn-ghost border-base-300"
                aria-label={`Pass “${opening.sentence.anchor}”, ${opening.page.title}`}
                onClick={() => pass(opening, 'pair')}
              >
                Pass
              </button>
              <button
                type="button"
                className="btn btn-xs btn-primary"
                aria-label={`Take “${opening.sentence.anchor}”, ${opening.page.title}`}
                onClick={() => take(opening)}
              >
                Take
              </button>
            </span>
          </li>
        ))}
      </ul>
    </Line>
  );
}
