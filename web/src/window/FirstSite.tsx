import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router';
import { answer, api } from '../api/client.ts';
import { Empty, Failed, Loading } from '../parts/states.tsx';

/** Goes to the first site that there is. */
export function FirstSite() {
  const sites = useQuery({ queryKey: ['sites'], queryFn: () => answer(api.GET('/api/sites')), staleTime: 0 });
  if (sites.isError) {
    return <Failed error={sites.error} retry={() => void sites.refetch()} />;
  }
  if (!sites.data) {
    return <Loading what="Looking for your sites" />;
  }
  const first = sites.data[0];
  if (first) {
    return <Navigate to={`/${first.id}/pages`} replace />;
  }
  return (
    <main>
      <Empty title="There is no site yet.">
        Add one on the command line with <code>strelm site add</code>, then load this page again.
      </Empty>
    </main>
  );
}
