// What stands where rows would stand: nothing yet, nothing at all, or something went wrong.

import type { ReactNode } from 'react';
import { Link } from 'react-router';

interface EmptyProps {
  title: string;
  children?: ReactNode;
  /** Whether it stands for a whole view, which then has no other heading. */
  isView?: boolean;
}

export function Empty({ title, children, isView = false }: EmptyProps) {
  const Title = isView ? 'h1' : 'p';
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
      <Title className="mb-2 font-serif text-lg">{title}</Title>
      <div className="text-secondary">{children}</div>
    </div>
  );
}

interface FailedProps {
  error: Error;
  retry: () => void;
  /** Whether it stands for a whole view, which then has no other heading. */
  isView?: boolean;
}

export function Failed({ error, retry, isView = false }: FailedProps) {
  const Title = isView ? 'h1' : 'p';
  return (
    <div className="mx-auto max-w-md p-10 text-center" role="alert">
      <Title className="mb-3 font-serif text-lg">{error.message}</Title>
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
