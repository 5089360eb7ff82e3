import { type ReactNode, useId } from 'react';

interface Props {
  label: string;
  help?: ReactNode;
  problem?: string | undefined;
  children: (props: { id: string; 'aria-describedby': string; 'aria-invalid': boolean }) => ReactNode;
}

/** A field of a form with its label, its help and what is wrong with it. */
export function Field({ label, help, problem, children }: Props) {
  const id = useId();
  return (
    <div className="mb-4">
      <label htmlFor={id} className="mb-1 block font-semibold">
        {label}
      </label>
      {children({ id, 'aria-describedby': `${id}-help`, 'aria-invalid': problem !== undefined })}
      <div id={`${id}-help`} className="mt-1">
        {problem && (
          <p className="font-semibold text-accent" role="alert">
            {problem}
          </p>
        )}
        {help && <p className="text-secondary">{help}</p>}
      </div>
    </div>
  );
}
