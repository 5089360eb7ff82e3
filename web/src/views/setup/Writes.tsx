/** Whether releases change the files of a folder. */
export function Writes({ writes, setWrites }: { writes: boolean; setWrites: (writes: boolean) => void }) {
  const ways = [
    { value: true, name: 'Releases are written into the files.', help: 'Directly, and can be taken back whole.' },
    {
      value: false,
      name: 'The files stay as they are.',
      help: 'What you decide is handed over: a list to work by, and the next reading sees what was put in.',
    },
  ];
  return (
    <fieldset className="mb-4">
      <legend className="mb-1 font-semibold">How do changes get there?</legend>
      {ways.map(({ value, name, help }) => (
        <label key={name} className="flex items-baseline gap-2 py-0.5">
          <input
            type="radio"
            name="writes"
            className="radio radio-sm translate-y-0.5"
            checked={writes === value}
            onChange={() => setWrites(value)}
          />
          <span>
            {name} <span className="text-secondary">{help}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
