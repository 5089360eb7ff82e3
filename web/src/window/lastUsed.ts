// Which view of each group was used last, and where in it.

import { useEffect } from 'react';
import { useLocation } from 'react-router';
import { keep, recall } from '../parts/browserStorage.ts';
import { type Group, viewAt, viewsOf } from './views.ts';

const keyOf = (site: number, group: Group) => `strelm.last.${site}.${group}`;

/** The path of the view of a group that was used last, else of its first. */
export function lastUsed(site: number, group: Group): string {
  const known = recall('sessionStorage', keyOf(site, group));
  const views = viewsOf(group);
  const view = views.find((one) => one.path === known) ?? views[0];
  return `/${site}/${view?.path ?? ''}`;
}

/** Takes note of the view that is shown. */
export function useNoteOfUse(site: number): void {
  const { pathname } = useLocation();
  useEffect(() => {
    const view = viewAt(pathname);
    if (view?.group) {
      keep('sessionStorage', keyOf(site, view.group), view.path);
    }
  }, [site, pathname]);
}
