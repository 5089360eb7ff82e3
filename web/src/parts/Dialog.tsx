import { type ReactNode, useEffect, useRef } from 'react';

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
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const before = document.activeElement;
    dialog.current?.showModal();
    return () => {
      if (before instanceof HTMLElement) {
        before.focus();
      }
    };
  }, []);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: Escape closes it; the press is for the mouse
    <dialog
      ref={dialog}
      aria-label={title}
      className={`m-auto max-h-[86vh] w-[94vw] rounded-box border border-base-300 bg-base-100 p-0 text-base-content shadow-xl backdrop:bg-black/40 ${width}`}
      onClose={close}
      onClick={(event) => event.target === dialog.current && close()}
    >
      {hidesTitle ? null : (
        <header className="flex items-center justify-between border-b border-base-300 bg-base-200 px-4 py-2">
          <h2 className="font-serif text-lg font-semibold">{title}</h2>
          <button type="button" className="btn btn-sm btn-ghost" onClick={close}>
            Close
          </button>
        </header>
      )}
      {children}
    </dialog>
  );
}
