import { Dialog as Base } from '@base-ui/react/dialog';
import type { ReactNode } from 'react';

interface Props {
  title: string;
  close: () => void;
  children: ReactNode;
  /** Tailwind classes for its width. */
  width?: string;
  /** Whether the title is for screen readers alone. */
  hidesTitle?: boolean;
}

/** A window over the window: the focus stays in it, Escape closes it, and afterwards the focus is where it was. */
export function Dialog({ title, close, children, width = 'max-w-lg', hidesTitle = false }: Props) {
  return (
    <Base.Root open onOpenChange={(isOpen) => !isOpen && close()}>
      <Base.Portal>
        <Base.Backdrop className="fixed inset-0 z-30 bg-black/40" />
        <Base.Viewport className="fixed inset-0 z-30 flex overflow-hidden">
          <Base.Popup
            {...(hidesTitle && { 'aria-label': title })}
            className={`m-auto max-h-[86vh] w-[94vw] overflow-y-auto rounded-box border border-base-300 bg-base-100 text-base-content shadow-xl outline-none ${width}`}
          >
            {hidesTitle ? null : (
              <header className="flex items-center justify-between border-b border-base-300 bg-base-200 px-4 py-2">
                <Base.Title className="font-serif text-lg font-semibold">{title}</Base.Title>
                <Base.Close className="btn btn-sm btn-ghost">Close</Base.Close>
              </header>
            )}
            {children}
          </Base.Popup>
        </Base.Viewport>
      </Base.Portal>
    </Base.Root>
  );
}
