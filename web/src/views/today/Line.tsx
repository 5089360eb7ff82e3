import type { ReactNode } from 'react';

interface LineProps {
  title: ReactNode;
  why: ReactNode;
  action?: ReactNode;
  isUrgent?: boolean;
  children?: ReactNode;
}

/** One thing that wants attention. */
export function Line({ title, why, action, isUrgent = false, children }: LineProps) {
  return (
    <li
      data-testid="line"
      className={`rounded-box border border-l-4 border-base-300 bg-base-100 px-4 py-2.5 ${isUrgent ? 'border-l-accent' : 'border-l-depth-3'}`}
    >
      <div className="figures flex flex-wrap items-baseline gap-x-4">
        <h2 className={`font-serif text-lg font-semibold ${isUrgent ? 'text-accent' : ''}`}>{title}</h2>
        <span className="ml-auto">{action}</span>
      </div>
      <p className="text-secondary">{why}</p>
      {children}
    </li>
  );
}
