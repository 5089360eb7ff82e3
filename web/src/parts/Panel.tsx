import { Popover } from '@base-ui/react/popover';
import { type ReactNode, useRef, useState } from 'react';

/** What a button that opens something under it looks like. */
export const OPENER = 'btn btn-sm btn-ghost border-base-300';
/** What opens under it. */
export const POPUP = 'rounded-box border border-base-300 bg-base-100 text-base-content shadow-lg outline-none';

interface Props {
  name: string;
  children: (close: () => void) => ReactNode;
  /** Whether it hangs from the right end of its button. */
  alignRight?: boolean;
}

/** A button that opens a small form under it. Escape and a press elsewhere close it. */
export function Panel({ name, children, alignRight = false }: Props) {
  const [isOpen, setIsOpen] = useState(false);
  const place = useRef<HTMLDivElement>(null);
  return (
    <div ref={place}>
      <Popover.Root open={isOpen} onOpenChange={setIsOpen} modal="trap-focus">
        <Popover.Trigger className={OPENER}>
          {name} <span aria-hidden="true">▾</span>
        </Popover.Trigger>
        <Popover.Portal container={place}>
          <Popover.Positioner
            align={alignRight ? 'end' : 'start'}
            sideOffset={4}
            positionMethod="fixed"
            className="z-20"
          >
            <Popover.Popup className={POPUP} aria-label={name}>
              {children(() => setIsOpen(false))}
            </Popover.Popup>
          </Popover.Positioner>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}
