import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useRef, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { LinkItem } from './LinkItem.tsx';
import type { Side } from './opening.ts';

interface Props {
  site: number;
  links: Schema['LinkRow'][];
  side: Side;
}

/** Of a list that is longer, only what is in view is drawn. */
const LONG = 80;

/** Between two rows, in pixels. */
const GAP = 6;

/** What a row takes up until it is measured, in pixels. */
const HEIGHT = 60;

/** Links that exist, in the order of the page. */
export const LinkList = memo(function LinkList(props: Props) {
  if (props.links.length > LONG) {
    return <LongList {...props} />;
  }
  return (
    <ul className="flex flex-col gap-1.5">
      {props.links.map((link, row) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the order of the page is the only identity
        <li key={row}>
          <LinkItem site={props.site} link={link} side={props.side} />
        </li>
      ))}
    </ul>
  );
});

function LongList({ site, links, side }: Props) {
  const list = useRef<HTMLUListElement>(null);
  const { scroller, margin } = useScroller(list);
  const rows = useVirtualizer({
    count: links.length,
    getScrollElement: () => scroller,
    estimateSize: () => HEIGHT,
    gap: GAP,
    overscan: 8,
    scrollMargin: margin,
  });
  return (
    <ul ref={list} className="relative" style={{ height: rows.getTotalSize() }}>
      {rows.getVirtualItems().map((row) => {
        const link = links[row.index];
        return (
          link && (
            <li
              key={row.key}
              ref={rows.measureElement}
              data-index={row.index}
              aria-setsize={links.length}
              aria-posinset={row.index + 1}
              className="absolute inset-x-0 top-0"
              style={{ transform: `translateY(${row.start - margin}px)` }}
            >
              <LinkItem site={site} link={link} side={side} />
            </li>
          )
        );
      })}
    </ul>
  );
}

/** What scrolls around a list, and how far down in it the list begins: what stands above grows and shrinks. */
function useScroller(list: { current: HTMLElement | null }): { scroller: Element | null; margin: number } {
  const [found, setFound] = useState<{ scroller: Element | null; margin: number }>({ scroller: null, margin: 0 });
  useEffect(() => {
    const element = list.current;
    if (!element) {
      return;
    }
    const look = () => {
      const scroller = scrollerOf(element);
      const top = scroller ? element.getBoundingClientRect().top - scroller.getBoundingClientRect().top : 0;
      const margin = Math.round(top + (scroller?.scrollTop ?? 0));
      setFound((before) => (before.scroller === scroller && before.margin === margin ? before : { scroller, margin }));
    };
    look();
    // What scrolls together with the list: it grows and shrinks with what stands above, and is drawn when it is opened.
    const observer = new ResizeObserver(look);
    for (const part of [element, ...(scrollerOf(element)?.children ?? [])]) {
      observer.observe(part);
    }
    window.addEventListener('resize', look);
    return () => {
      observer.disconnect();
      window.removeEventListener('resize', look);
    };
  }, [list]);
  return found;
}

function scrollerOf(element: Element): Element | null {
  for (let around = element.parentElement; around; around = around.parentElement) {
    if (/auto|scroll/.test(getComputedStyle(around).overflowY)) {
      return around;
    }
  }
  return document.scrollingElement;
}
