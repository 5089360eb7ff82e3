import { type KeyboardEvent, type MouseEvent, memo, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { Folded, hideTitle } from './Folded.tsx';
import { draw, renew } from './markup.ts';
import { selectedWords } from './selection.ts';
import type { Words } from './useDesk.ts';

interface Props {
  site: number;
  desk: Schema['Desk'];
  /** Numbers of the openings that are shown beside the text: the words of others are not marked. */
  shown: ReadonlySet<number>;
  /** Number of the opening that is chosen, from 1; 0 for none. */
  current: number;
  /** Number of the opening on which the mouse is; 0 for none. */
  pointed: number;
  choose: (number: number) => void;
  point: (number: number) => void;
  /** Takes words or a picture that were selected; nothing where none can carry a link. */
  select: ((words: Words) => void) | undefined;
}

/** The page as readers see it. Its HTML was made harmless by the server, which also marked it. */
export const Reader = memo(function Reader({ site, desk, shown, current, pointed, choose, point, select }: Props) {
  const reader = useRef<HTMLDivElement>(null);
  const drawn = useRef<Element>(undefined);
  const [marks, setMarks] = useState<Marks>(new Map());
  const navigate = useNavigate();
  const isEmpty = desk.html.trim() === '';
  useLayoutEffect(() => {
    const text = reader.current;
    if (!text || isEmpty) {
      drawn.current = undefined;
      return;
    }
    drawn.current = drawn.current ? renew(text, drawn.current, desk.html) : draw(text, desk.html);
    setMarks(marksIn(text));
  }, [desk.html, isEmpty]);

  useLayoutEffect(() => {
    const own = marks.get(current) ?? [];
    for (const mark of own) {
      mark.classList.add('is-current');
      mark.scrollIntoView({ block: 'nearest' });
    }
    return () => {
      for (const mark of own) {
        mark.classList.remove('is-current');
      }
    };
  }, [current, marks]);

  useLayoutEffect(() => {
    for (const [number, own] of marks) {
      for (const mark of own) {
        mark.classList.toggle('is-left-out', !shown.has(number));
      }
    }
  }, [shown, marks]);

  useLayoutEffect(() => {
    const own = marks.get(pointed) ?? [];
    for (const mark of own) {
      mark.classList.add('is-pointed-at');
    }
    return () => {
      for (const mark of own) {
        mark.classList.remove('is-pointed-at');
      }
    };
  }, [pointed, marks]);

  const canSelect = Boolean(select);
  const { title } = desk.page;
  const heading = desk.heading ?? '';
  // biome-ignore lint/correctness/useExhaustiveDependencies: new marks tell of new text
  useEffect(() => {
    if (reader.current) {
      nameTheNameless(reader.current);
      reachTheWide(reader.current);
      hideTitle(reader.current, [title, heading]);
      makePicturesPressable(reader.current, canSelect);
    }
  }, [marks, title, heading, canSelect]);

  const over = (event: MouseEvent) => {
    const mark = event.target instanceof Element ? event.target.closest('mark[data-opening]') : null;
    point(Number(mark?.getAttribute('data-opening') ?? 0));
  };
  const release = () => {
    const words = reader.current && select ? selectedWords(reader.current) : undefined;
    if (words) {
      select?.(words);
    }
  };
  /** Whether a picture that could carry a link was pressed. */
  const selectPicture = (pressed: EventTarget) => {
    const number = pressed instanceof Element && pressed.closest('[data-picture]')?.getAttribute('data-picture');
    if (number && select) {
      select({ picture: Number(number) });
    }
    return Boolean(number && select);
  };
  const pressKey = (event: KeyboardEvent) => {
    if ((event.key === 'Enter' || event.key === ' ') && selectPicture(event.target)) {
      event.preventDefault();
    }
  };
  const press = (event: MouseEvent) => {
    if (!(event.target instanceof Element) || selectPicture(event.target)) {
      return;
    }
    const link = event.target.closest('a');
    if (link) {
      event.preventDefault();
      // What was made harmless leads nowhere.
      if (!link.hasAttribute('href')) {
        return;
      }
      const address = link.href.split('#')[0];
      const page = desk.links_out.find((row) => row.address === address)?.page;
      if (page) {
        void navigate(`/${site}/pages/${page.number}`);
      } else {
        window.open(link.href, '_blank', 'noopener,noreferrer');
      }
      return;
    }
    const number = Number(event.target.closest('mark[data-opening]')?.getAttribute('data-opening'));
    if (shown.has(number)) {
      choose(number);
    }
  };
  if (isEmpty) {
    return <p className="text-secondary">There is no text on this page.</p>;
  }
  return (
    <Folded reader={reader} marks={marks}>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: links inside are real links; openings have rows with buttons */}
      <div
        ref={reader}
        className="reader"
        onClick={press}
        onKeyDown={pressKey}
        onMouseUp={release}
        onKeyUp={(event) => event.shiftKey && release()}
        onMouseOver={over}
        onFocus={() => point(0)}
        onMouseLeave={() => point(0)}
      />
    </Folded>
  );
});

/** The marks of openings in the text, by their numbers. */
type Marks = ReadonlyMap<number, HTMLElement[]>;

function marksIn(reader: HTMLElement): Marks {
  const marks = new Map<number, HTMLElement[]>();
  for (const mark of reader.querySelectorAll<HTMLElement>('mark[data-opening]')) {
    const number = Number(mark.getAttribute('data-opening'));
    marks.set(number, [...(marks.get(number) ?? []), mark]);
  }
  return marks;
}

/** Pictures that could carry a link are buttons that ask where to; without an editing interface they are pictures. */
function makePicturesPressable(reader: HTMLElement, isPressable: boolean): void {
  for (const picture of reader.querySelectorAll('[data-picture]')) {
    if (!isPressable) {
      picture.removeAttribute('role');
      picture.removeAttribute('tabindex');
      picture.removeAttribute('aria-label');
      continue;
    }
    const says = picture.querySelector('img')?.getAttribute('alt');
    picture.setAttribute('role', 'button');
    picture.setAttribute('tabindex', '0');
    picture.setAttribute('aria-label', says ? `Link the picture “${says}”` : 'Link this picture');
  }
}

/** What is wider than the page is scrolled by keyboard, too. */
function reachTheWide(reader: HTMLElement): void {
  for (const wide of reader.querySelectorAll('pre, table')) {
    if (wide.scrollWidth > wide.clientWidth) {
      wide.setAttribute('tabindex', '0');
    }
  }
}

/** What a page left without words is named, so that screen readers can tell of it. */
function nameTheNameless(reader: HTMLElement): void {
  for (const picture of reader.querySelectorAll('img:not([alt])')) {
    picture.setAttribute('alt', '');
  }
  // An anchor that leads nowhere is a mere place to point at.
  for (const link of reader.querySelectorAll('a:is([href], [data-link])')) {
    const hasWords = link.textContent?.trim() || link.querySelector('img:not([alt=""])');
    if (!hasWords) {
      link.setAttribute('aria-label', link.querySelector('img') ? 'A picture without words' : 'A link without words');
    }
  }
}
