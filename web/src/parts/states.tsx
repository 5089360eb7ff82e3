// What stands where rows would stand: nothing yet, nothing at all, or something went wrong.

import type { ReactNode } from 'react';

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mx-auto max-w-md p-10 text-center">
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
