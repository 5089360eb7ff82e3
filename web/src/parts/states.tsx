// What stands where rows would stand: nothing yet, nothing at all, or something went wrong.

import type { ReactNode } from 'react';
import { Link } from 'react-router';

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mx-auto max-w-md p-10 text-center">
      <svg viewBox="0 0 48 24" className="mx-auto mb-3 h-6 w-12 text-depth-3" aria-hidden="true">
        <path
          d="M0 8q6-6 12 0t12 0 12 0 12 0M0 16q6-6 12 0t12 0 12 0 12 0"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.5"
        />
      </svg>
      <p className="mb-2 font-serif text-lg">{title}</p>
      <div className="text-secondary">{children}</div>
    </div>
  );
}

export function Failed({ error, retry }: { error: Error; retry: () => void }) {
  return (
    <div className="mx-auto max-w-md p-10 text-center" role="alert">
      <p className="mb-3 font-serif text-lg">{error.message}</p>
      <button type="button" className="btn btn-primary btn-sm" onClick={retry}>
        Try again
      </button>
      <Link className="btn btn-ghost btn-sm ml-2 border-base-300" to="/">
        Go to the start
      </Link>
    </div>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <div className="p-10 text-center text-secondary" role="status">
      <span className="loading loading-dots loading-sm mr-2" aria-hidden="true" />
      {what}
    </div>
  );
}
