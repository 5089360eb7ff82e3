import { useLostPages } from '../window/actions.ts';

/** The two answers to a reading that did not find too much of the site. */
export function LostPages({ site, reading }: { site: number; reading: number }) {
  const answer = useLostPages(site, reading);
  return (
    <>
      <button
        type="button"
        className="btn btn-xs btn-primary"
        disabled={answer.isPending}
        onClick={() => answer.mutate(false)}
      >
        Keep them
      </button>
      <button type="button" className="btn btn-xs" disabled={answer.isPending} onClick={() => answer.mutate(true)}>
        Take them off
      </button>
    </>
  );
}
