import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router';
import { answer, api } from '../api/client.ts';
import { Failed, Loading } from '../parts/states.tsx';

/** Goes to the first site that there is, or to where one is added. */
export function FirstSite() {
  const sites = useQuery({ queryKey: ['sites'], queryFn: () => answer(api.GET('/api/sites')), staleTime: 0 });
  if (sites.isError) {
    return (
      <main>
        <Failed isView error={sites.error} retry={() => void sites.refetch()} />
      </main>
    );
  }
  if (!sites.data) {
    return <Loading what="Looking for your sites" />;
  }
  const first = sites.data[0];
  return <Navigate to={first ? `/${first.id}/today` : '/add'} replace />;
}
