import { useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import { Failed, Loading } from '../../parts/states.tsx';
import { count } from '../../parts/words.ts';
import { useSite } from '../../window/useSite.ts';
import { PlacesPane } from './PlacesPane.tsx';
import { useRules } from './useRules.ts';

/** The places of several rules, to be looked at before their links are taken. */
export function RulePlacesView() {
  const site = useSite();
  const [search] = useSearchParams();
  const chosen = search.get('rules');
  const query = useRules(site);
  const asked = useMemo(() => ({ rules: chosen ? chosen.split(',').map(Number) : [], draft: undefined }), [chosen]);
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Getting the rules" />;
  }
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-3 border-b border-base-300 px-4 py-2">
        <Link to={`/${site}/rules`} className="font-serif text-xl text-secondary hover:underline">
          Rules
        </Link>
        <h1 className="font-serif text-xl font-semibold">
          Places of {chosen ? count(asked.rules.length, 'rule') : 'all rules'}
        </h1>
      </div>
      <PlacesPane site={site} asked={asked} rules={query.data.rules} takes empty="" />
    </div>
  );
}
