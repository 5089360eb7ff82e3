import { Autocomplete } from '@base-ui/react/autocomplete';
import { type ReactNode, useId } from 'react';

export interface ListRow {
  id: string;
  /** Whether it is shown but cannot be chosen. */
  isOff?: boolean;
}

interface Props<Row extends ListRow> {
  /** What the field is called. */
  label: string;
  /** Whether the name stands above the field, and not in it for screen readers alone. */
  showsLabel?: boolean;
  placeholder: string;
  text: string;
  setText: (text: string) => void;
  rows: readonly Row[];
  /** What the list is called. */
  listName: string;
  choose: (row: Row) => void;
  draw: (row: Row) => ReactNode;
  /** Whether a row is chosen from the start, so that Enter alone takes it; otherwise once something is typed. */
  choosesFirst?: boolean;
  /** Whether what stands around it has the focus first. */
  waits?: boolean;
  /** Tailwind classes of the field, the list and a row. */
  looks: { field: string; list: string; row: string };
}

/** A field with a list under it: the arrow keys go through the list while one types, Enter takes the chosen row. */
export function ListField<Row extends ListRow>(props: Props<Row>) {
  const { label, showsLabel = false, waits = false, rows, looks, choose, draw } = props;
  const id = useId();
  return (
    <Autocomplete.Root
      inline
      open
      // The rows are found by the caller, in the language of the job.
      mode="none"
      filter={null}
      items={rows as Row[]}
      itemToStringValue={(row: Row) => row.id}
      autoHighlight={props.choosesFirst ? 'always' : true}
      keepHighlight
      value={props.text}
      onValueChange={(text, { reason }) => reason !== 'item-press' && props.setText(text)}
    >
      <label htmlFor={id} className={showsLabel ? 'mt-1 mb-0.5 block text-xs font-semibold text-secondary' : 'sr-only'}>
        {label}
      </label>
      <Autocomplete.Input
        id={id}
        autoFocus={!waits}
        type="text"
        autoComplete="off"
        spellCheck={false}
        className={looks.field}
        placeholder={props.placeholder}
      />
      <Autocomplete.List aria-label={props.listName} className={looks.list}>
        {(row: Row) => (
          <Autocomplete.Item
            key={row.id}
            value={row}
            disabled={row.isOff}
            className={`cursor-pointer data-disabled:cursor-default ${looks.row}`}
            onClick={() => choose(row)}
          >
            {draw(row)}
          </Autocomplete.Item>
        )}
      </Autocomplete.List>
    </Autocomplete.Root>
  );
}
