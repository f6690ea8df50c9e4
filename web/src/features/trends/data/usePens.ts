/** What is drawn of the traces. It does not change while only the cursor moves: then nothing is drawn anew. */
import { useMemo } from 'react';
import type { ContactRow, Pen } from '../../../chart';
import type { Span } from '../../../domain/time';
import { penColour, type Tokens } from '../../../ui/tokens';
import { toContact, toGuides, toPen, type Scale, type Trace } from '../model/model';
import { liesIn, scaleOf, sharedScales } from '../model/scales';
import type { TrendState } from '../model/state';
import type { Unseen } from '../page/TrendView';

/** A trace with what it is drawn by; contacts have no scale. */
export interface Styled {
  trace: Trace;
  scale: Scale | null;
  colour: string;
  hidden: boolean;
}

export interface Pens {
  styled: readonly Styled[];
  pens: readonly Pen[];
  guides: readonly Pen[];
  contacts: readonly ContactRow[];
  unseen: Unseen;
}

interface Parts {
  known: readonly Trace[];
  /** All tags by uid, those too that only scales and guide lines need. */
  others: ReadonlyMap<string, Trace>;
  state: TrendState;
  span: Span;
  tokens: Tokens;
}

export function usePens({ known, others, state, span, tokens }: Parts): Pens {
  const { scales, looks, hidden, selected } = state;
  return useMemo(() => {
    const own = known
      .filter((trace) => !trace.contact)
      .map((trace): [string, Scale] => {
        const { uid } = trace.tag;
        return [uid, scaleOf(trace, span, scales === 'fit', looks[uid], others)];
      });
    const shared = sharedScales(new Map(own), looks, scales === 'fit');
    const styled = known.map((trace) => {
      const { uid, colour } = trace.tag;
      const chosen = looks[uid]?.colour ?? colour;
      return {
        trace,
        scale: shared.get(uid) ?? null,
        colour: trace.contact ? tokens.ink : chosen === '' ? penColour(tokens, trace.number - 1) : chosen,
        hidden: hidden.includes(uid),
      };
    });
    const shown = styled.filter((one) => !one.hidden);
    const pens = shown.flatMap(({ trace, scale, colour }) => {
      const dimmed = ![null, trace.tag.uid].includes(selected);
      return scale === null ? [] : [toPen(trace, scale, colour, dimmed, looks[trace.tag.uid])];
    });
    return {
      styled,
      pens,
      guides: pens.flatMap((pen) => toGuides(pen, looks[pen.id], others)),
      contacts: shown
        .filter((one) => one.scale === null)
        .map(({ trace }) => toContact(trace, looks[trace.tag.uid]?.over)),
      unseen: unseenOf(shown, span),
    };
  }, [known, others, scales, looks, hidden, selected, span, tokens]);
}

function unseenOf(shown: readonly Styled[], span: Span): Unseen {
  const found = shown.map(({ trace, scale }) => (scale === null ? 'inside' : liesIn(trace, scale, span)));
  return {
    outside: found.filter((one) => one === 'outside').length,
    partly: found.filter((one) => one === 'partly').length,
    stale: shown.flatMap(({ trace, scale }) =>
      scale?.staleUs === undefined ? [] : [{ name: trace.name, sinceUs: scale.staleUs }],
    ),
  };
}
