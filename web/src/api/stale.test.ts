import { describe, expect, it } from 'vitest';
import { type Asked, between, isStale, type Kind, notAsked, readTold, together, withAsked } from './stale.ts';

describe('events of a journal', () => {
  const told = (data: string) => readTold(data);

  it('tell what kind of change came', () => {
    expect(between(told('7'), told('8 taken'))).toEqual(new Set(['taken']));
    expect(between(told('8 taken'), told('9 reading'))).toEqual(new Set(['reading']));
  });

  it('are no news when the number is the same', () => {
    expect(between(told('7 pages'), told('7'))).toBeUndefined();
  });

  it('stand for everything where one is missing, its kind is not known, or the server is not sure', () => {
    for (const data of ['9 taken', '8', '8 something', '0', '6 taken']) {
      expect(between(told('7'), told(data)), data).toBe('everything');
    }
  });

  it('add up', () => {
    expect(together(new Set(['taken']), new Set(['passed']))).toEqual(new Set(['taken', 'passed']));
    expect(together(new Set(['taken']), 'everything')).toBe('everything');
  });
});

describe('what this browser changed', () => {
  const asked: Asked = withAsked(withAsked(new Map(), ['taken'], 9), ['passed'], 7);
  const left = (kinds: Kind[], seq: number) => notAsked(new Set(kinds), seq, asked);

  it('is not asked for once more when the journal tells of it', () => {
    expect(left(['taken'], 9)).toEqual(new Set());
    expect(left(['taken'], 8)).toEqual(new Set());
  });

  it('leaves what others changed, before and since', () => {
    expect(left(['taken', 'pages'], 9)).toEqual(new Set(['pages']));
    expect(left(['taken'], 10)).toEqual(new Set(['taken']));
    expect(left(['passed'], 8)).toEqual(new Set(['passed']));
    expect(notAsked('everything', 9, asked)).toBe('everything');
  });

  it('never goes back', () => {
    expect(withAsked(asked, ['taken'], 3).get('taken')).toBe(9);
  });
});

describe('what is out of date', () => {
  const desk = ['site', 1, 'desk', 5];

  it('is what a change can have touched', () => {
    expect(isStale(desk, 1, new Set(['taken']))).toBe(true);
    expect(isStale(['site', 1, 'tray'], 1, new Set(['taken']))).toBe(true);
    expect(isStale(['site', 1, 'settings'], 1, new Set(['taken', 'passed']))).toBe(false);
    expect(isStale(['site', 1, 'tray'], 1, new Set(['passed']))).toBe(false);
    expect(isStale(desk, 1, new Set(['reading']))).toBe(false);
    expect(isStale(['site', 1, 'status'], 1, new Set(['reading']))).toBe(true);
  });

  it('is all of the site when it is not known, and when pages changed', () => {
    for (const name of ['desk', 'settings', 'told', 'find']) {
      expect(isStale(['site', 1, name], 1, 'everything')).toBe(true);
      expect(isStale(['site', 1, name], 1, new Set(['reading', 'pages']))).toBe(true);
    }
  });

  it('is never of another site', () => {
    expect(isStale(desk, 2, 'everything')).toBe(false);
    expect(isStale(['sites'], 1, 'everything')).toBe(false);
  });
});
