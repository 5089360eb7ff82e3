import { type ReactNode, useEffect, useId, useRef, useState } from 'react';

interface Props {
  name: string;
  children: (close: () => void) => ReactNode;
  /** Whether it hangs from the right end of its button. */
  alignRight?: boolean;
}

/** A button that opens a small panel under it. Escape and a press elsewhere close it. */
export function Menu({ name, children, alignRight = false }: Props) {
  const id = useId();
  const [isOpen, setIsOpen] = useState(false);
  const menu = useRef<HTMLDivElement>(null);
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (!isOpen) {
      return;
    }
    const pressElsewhere = (event: PointerEvent) => {
      if (event.target instanceof Node && !menu.current?.contains(event.target)) {
        setIsOpen(false);
      }
    };
    const pressEscape = (event: KeyboardEvent) => {
      if (event.key === 'Escape') {
        setIsOpen(false);
        button.current?.focus();
      }
    };
    window.addEventListener('pointerdown', pressElsewhere);
    window.addEventListener('keydown', pressEscape);
    return () => {
      window.removeEventListener('pointerdown', pressElsewhere);
      window.removeEventListener('keydown', pressEscape);
    };
  }, [isOpen]);
  const close = () => {
    setIsOpen(false);
    button.current?.focus();
  };
  return (
    <div ref={menu} className="relative">
      <button
        ref={button}
        type="button"
        className="btn btn-sm btn-ghost border-base-300"
        aria-expanded={isOpen}
        aria-controls={isOpen ? id : undefined}
        onClick={() => setIsOpen(!isOpen)}
      >
        {name} <span aria-hidden="true">▾</span>
      </button>
      {isOpen && (
        <div
          id={id}
          className={`absolute top-full z-20 mt-1 rounded-box border border-base-300 bg-base-100 shadow-lg ${alignRight ? 'right-0' : 'left-0'}`}
        >
          {children(close)}
        </div>
      )}
    </div>
  );
}
