import { Menu as Base } from '@base-ui/react/menu';
import { type ReactNode, useRef } from 'react';
import { OPENER, POPUP } from './Panel.tsx';

interface Props {
  name: string;
  children: ReactNode;
  /** Tailwind classes for its width. */
  width: string;
}

/** A button that opens a list of things to press, gone through with the arrow keys and by first letters. */
export function Menu({ name, children, width }: Props) {
  const place = useRef<HTMLDivElement>(null);
  return (
    <div ref={place}>
      <Base.Root>
        <Base.Trigger className={OPENER}>
          {name} <span aria-hidden="true">▾</span>
        </Base.Trigger>
        <Base.Portal container={place}>
          <Base.Positioner align="end" sideOffset={4} positionMethod="fixed" className="z-20">
            <Base.Popup className={`${POPUP} ${width} p-2`}>{children}</Base.Popup>
          </Base.Positioner>
        </Base.Portal>
      </Base.Root>
    </div>
  );
}

interface LinkProps {
  href: string;
  /** The name under which it is saved; empty for the server's own. Without one, the link is followed. */
  download?: string;
  /** Whether it opens in a tab of its own. */
  inNewTab?: boolean;
  children: ReactNode;
}

/** One thing to press: a link, so that the browser's own means of saving a file are at hand. */
export function MenuLink({ href, download, inNewTab = false, children }: LinkProps) {
  return (
    <Base.LinkItem
      closeOnClick
      className="block rounded px-2 py-1.5 outline-none data-highlighted:bg-base-200"
      href={href}
      download={download}
      {...(inNewTab && { target: '_blank', rel: 'noopener noreferrer' })}
    >
      {children}
      {inNewTab && (
        <>
          {' '}
          <span aria-hidden="true">↗</span>
          <span className="sr-only">in a new tab</span>
        </>
      )}
    </Base.LinkItem>
  );
}

/** What the things to press are about. */
export function MenuNote({ children }: { children: ReactNode }) {
  return <p className="px-2 pt-1 text-xs text-secondary">{children}</p>;
}
