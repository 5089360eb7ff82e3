import { Link } from 'react-router';
import { Empty } from '../parts/states.tsx';
import { useSite } from './useSite.ts';

export function NoView() {
  return (
    <Empty isView title="There is nothing at this address.">
      <Link className="link link-primary" to={`/${useSite()}/today`}>
        Go to Today
      </Link>
    </Empty>
  );
}
