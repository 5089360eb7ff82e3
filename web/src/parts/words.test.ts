import { describe, expect, it } from 'vitest';
import { count, duration, exactMoment, moment, number } from './words.ts';

describe('numbers and moments in words', () => {
  it('counts one and many', () => {
    expect([count(0, 'link'), count(1, 'link'), count(1234, 'link')]).toEqual(['0 links', '1 link', '1,234 links']);
    expect([count(1, 'entry', 'entries'), count(2, 'entry', 'entries')]).toEqual(['1 entry', '2 entries']);
    expect(number(1234567)).toBe('1,234,567');
  });

  it('says a length of time as people do', () => {
    for (const [seconds, said] of [
      [0, '1 second'],
      [0.4, '1 second'],
      [89, '89 seconds'],
      [90, '2 minutes'],
      [3600, '60 minutes'],
      [5399, '90 minutes'],
      [5400, '2 hours'],
      [86_400, '24 hours'],
    ] as const) {
      expect(duration(seconds), `${seconds}`).toBe(said);
    }
  });

  it('tells a moment with the year, and exactly with its zone', () => {
    const iso = '2026-03-01T12:00:00Z';
    expect(moment(iso)).toMatch(/^\d{1,2} Mar 2026/);
    expect(exactMoment(iso)).toContain('2026');
    expect(exactMoment(iso).length).toBeGreaterThan(moment(iso).length);
  });
});
