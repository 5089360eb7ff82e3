import type { ReactNode } from 'react';
import { Field } from '../../parts/Field.tsx';

interface Props {
  label: string;
  help: ReactNode;
  problem?: string | undefined;
  placeholder?: string;
  value: string;
  setValue: (text: string) => void;
  kind?: 'text' | 'address' | 'password';
}

/** One line of text with its label, help and what is wrong with it. */
export function TextField({ label, help, problem, placeholder, value, setValue, kind = 'text' }: Props) {
  return (
    <Field label={label} help={help} problem={problem}>
      {(props) => (
        <input
          {...props}
          type={kind === 'password' ? 'password' : 'text'}
          inputMode={kind === 'address' ? 'url' : undefined}
          autoComplete={kind === 'password' ? 'off' : undefined}
          className="input w-full"
          maxLength={2000}
          placeholder={placeholder}
          value={value}
          onChange={(event) => setValue(event.target.value)}
        />
      )}
    </Field>
  );
}
