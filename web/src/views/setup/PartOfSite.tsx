import { Field } from '../../parts/Field.tsx';

interface Props {
  within: string;
  setWithin: (text: string) => void;
  without: string;
  setWithout: (text: string) => void;
}

/** Which part of a site is read, by how addresses begin. */
export function PartOfSite({ within, setWithin, without, setWithout }: Props) {
  const parts = [
    {
      label: 'Only addresses that begin with',
      help: 'One path a line, such as /docs/. Empty for the whole site. The entry page is read in any case.',
      value: within,
      set: setWithin,
    },
    {
      label: 'But not those that begin with',
      help: 'A * stands for anything: /docs/*/print. Links to what is not read are known as such, and not as broken.',
      value: without,
      set: setWithout,
    },
  ];
  return (
    <div className="grid gap-x-6 sm:grid-cols-2">
      {parts.map(({ label, help, value, set }) => (
        <Field key={label} label={label} help={help}>
          {(props) => (
            <textarea
              {...props}
              className="textarea w-full"
              rows={2}
              value={value}
              onChange={(event) => set(event.target.value)}
            />
          )}
        </Field>
      ))}
    </div>
  );
}
