import { useEffect, useState } from 'react';

/** The pause in typing after which the rows are looked for, in milliseconds. */
const PAUSE = 200;

interface Props {
  text: string;
  set: (text: string) => void;
  label: string;
  placeholder: string;
}

export function TextFilter({ text, set, label, placeholder }: Props) {
  const [typed, setTyped] = useState(text);
  useEffect(() => setTyped(text), [text]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only typing sets off the pause
  useEffect(() => {
    const timer = window.setTimeout(() => typed !== text && set(typed), PAUSE);
    return () => window.clearTimeout(timer);
  }, [typed]);
  return (
    <input
      type="search"
      className="input input-sm w-56"
      aria-label={label}
      placeholder={placeholder}
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
    />
  );
}
