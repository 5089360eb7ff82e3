interface Props {
  label: string;
  isOn: boolean;
  set: (isOn: boolean) => void;
  isOff?: boolean;
}

/** A box with its label behind it. */
export function Check({ label, isOn, set, isOff = false }: Props) {
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={isOn}
        disabled={isOff}
        onChange={(event) => set(event.target.checked)}
      />
      {label}
    </label>
  );
}
