import { Link } from 'react-router';
import { count } from '../../parts/words.ts';
import { useRules } from '../rules/useRules.ts';
import { Line } from './Line.tsx';

/** How many words of rules stand without their link, as on pages that are new. */
export function useRulesWaiting(site: number): number {
  const rules = useRules(site).data?.rules ?? [];
  return rules.reduce((sum, row) => sum + (row.counts?.wanted ?? 0), 0);
}

export function RulesWaiting({ site, waiting }: { site: number; waiting: number }) {
  return (
    <Line
      title={`${count(waiting, 'place')} of rules ${waiting === 1 ? 'waits' : 'wait'} for a look`}
      why="Words of your rules stand there without their link: on new pages, on pages that changed, or since the rules were made."
      action={
        <Link className="link link-primary" to={`/${site}/rules/places`}>
          Look at {waiting === 1 ? 'it' : 'them'}
        </Link>
      }
    />
  );
}
