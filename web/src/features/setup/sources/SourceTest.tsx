/** Tries a source before it is saved: the live answer, or the plain reason. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/setup-sources.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { Choice, Switched, Told, Offered } from '../../../ui';
import { AddressFields } from '../tags/AddressFields';
import { firstAddress } from '../common/choices';
import { placeText, VALUE_TYPES, type Address, type Fields, type Protocol } from '../common/protocols';
import type { TagIn } from '../../../entities/tags';
import type { Tested, Trial } from '../../../entities/sources';
import { testSource } from '../../../entities/sources';

interface SourceTestProps {
  protocol: Protocol;
  config: Fields;
  /** A password that was typed; none: the one that is kept for the source. */
  secret: string | null;
  source: string;
}

export function SourceTest({ protocol, config, secret, source }: SourceTestProps): ReactElement {
  const [reads, setReads] = useState(false);
  const [place, setPlace] = useState<{ protocol: Protocol; address: Address }>({
    protocol,
    address: firstAddress(protocol),
  });
  const [kind, setKind] = useState<NonNullable<TagIn['value_type']>>('float');
  const address = place.protocol === protocol ? place.address : firstAddress(protocol);
  const test = useMutation({
    mutationFn: () =>
      testSource({
        protocol,
        config,
        places: reads ? [{ address, value_type: kind }] : [],
        secret,
        source,
      } as Trial),
  });
  return (
    <Box
      component="section"
      aria-label={wording.test}
      sx={{ border: 1, borderColor: 'divider', borderRadius: 1, p: 1.5, display: 'grid', gap: 1 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Typography variant="subtitle2" sx={{ flex: 1 }}>
          {wording.testBeforeSaving}
        </Typography>
        <Offered>
          {' '}
          <Button size="small" variant="outlined" disabled={test.isPending} onClick={() => test.mutate()}>
            {test.isPending ? wording.testing : wording.test}
          </Button>
        </Offered>
      </Box>
      <Switched label={wording.readAValueToo} value={reads} onChange={setReads} />
      {reads && (
        <>
          <AddressFields
            protocol={protocol}
            address={address}
            onChange={(next) => setPlace({ protocol, address: next })}
          />
          <Choice
            label={wording.readAs}
            value={kind}
            options={VALUE_TYPES.filter((one) => one.value !== 'text')}
            onChange={(value) => setKind(value)}
          />
        </>
      )}
      {test.data !== undefined && <Answer tested={test.data} place={reads ? placeText(address) : ''} />}
      {test.error !== null && <Told kind="error">{errorText(test.error)}</Told>}
    </Box>
  );
}

function Answer({ tested, place }: { tested: Tested; place: string }): ReactElement {
  if (!tested.ok) return <Told kind="error">{fill(wording.noAnswerReason, { reason: tested.reason })}</Told>;
  const value = tested.values[0];
  const read =
    value === undefined
      ? ''
      : ` ${fill(wording.placeIsPart, { place, part: value.value === null ? value.text : String(value.value) })}`;
  return (
    <Told kind="good">{fill(wording.itAnswersInValueMsRead, { value: tested.took_ms ?? 0, read })}</Told>
  );
}
