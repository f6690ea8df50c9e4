import { describe, expect, it } from 'vitest';
import {
  asDraft,
  limitsText,
  looksWords,
  ownWords,
  planWords,
  toggled,
  withSettings,
  withNewMember,
  withoutMember,
  type EquipmentClass,
  type Member,
} from './equipment';

const member = (key: string): Member => ({
  ...{ key, slot: 'device', settings: { name: `{name} ${key}`, range_high: 85 }, addresses: {} },
  limits: [null, null],
});
const line: EquipmentClass = {
  uid: 'a',
  name: 'Drying line',
  revision: 3,
  equipment: 4,
  slots: [],
  parameters: {},
  runs: [],
  members: [member('Damper'), member('Jam')],
  loggers: [{ key: 'every second', settings: { tags: ['{tag:Damper}', '{tag:Jam}'] } }],
  joins: [{ logger: 'b', members: ['Jam'], overrides: {} }],
  trend: ['Jam', 'Damper'],
  card: [{ member: 'Jam', stat: 'Starts', parameters: {} }],
};

describe('a class that is edited', () => {
  it('is as it was until something is changed', () => {
    const draft = asDraft(line);
    expect(withSettings(draft, 'Damper', { range_high: 90 }).members[0]?.settings).toEqual({
      name: '{name} Damper',
      range_high: 90,
    });
    expect(draft.members[0]?.settings['range_high']).toBe(85);
    expect(withSettings(draft, 'Nothing', { range_high: 90 })).toEqual(draft);
  });

  it('loses a member everywhere', () => {
    const draft = withoutMember(asDraft(line), 'Jam');
    expect(JSON.stringify(draft)).not.toContain('Jam');
    expect(draft.loggers[0]?.settings['tags']).toEqual(['{tag:Damper}']);
  });

  it('gets a member that its loggers record', () => {
    const draft = withNewMember(asDraft(line), member('Speed'), ['every second']);
    expect(draft.loggers[0]?.settings['tags']).toContain('{tag:Speed}');
    expect(withNewMember(asDraft(line), member('Speed'), []).loggers).toEqual(line.loggers);
  });
});

describe('words', () => {
  it('tell what is looked at otherwise', () => {
    const draft = asDraft(line);
    expect(looksWords(draft, draft)).toEqual([]);
    const [damper, jam] = draft.members as [Member, Member];
    const after = { ...draft, trend: [], members: [{ ...damper, limits: [1, 2] }, jam] };
    expect(looksWords(draft, after)).toEqual([
      'Limits of Damper: none → 1 to 2',
      'The trend sheet has other tags',
    ]);
  });

  it('tell limits, what is a piece its own, and what a plan comes to', () => {
    expect([limitsText({ limits: [1, 2] }), limitsText({ limits: [null, 2] })]).toEqual([
      '1 to 2',
      'up to 2',
    ]);
    expect([limitsText({ limits: [1, null] }), limitsText({ limits: [null, null] })]).toEqual(['from 1', '']);
    expect(ownWords({ overrides: { tags: { Damper: { range_high: 80 } } }, without: ['Jam'] })).toEqual([
      'Damper: range high 80',
      'no Jam',
    ]);
    expect(planWords({ equipment: [] })).toContain('No tag');
    const difference = { kind: 'tag', uid: 'a', name: 'x', action: 'changed', changes: [] };
    expect(
      planWords({ equipment: [{ uid: 'a', name: 'Line 1', differences: [difference], removed: ['y'] }] }),
    ).toBe('1 object added or changed, 1 removed (their history stays) in 1 equipment item.');
    expect(toggled(toggled([], 'a'), 'b')).toEqual(['a', 'b']);
    expect(toggled(['a'], 'a')).toEqual([]);
  });
});
