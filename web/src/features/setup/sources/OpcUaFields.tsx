/** The settings of an OPC UA server: where it is, how it is spoken to, and whose certificate is trusted. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useWatch, type UseFormReturn } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-sources.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { Choice, Pairs, TextLine, Told, Offered } from '../../../ui';
import { SourceField, type SourceForm } from './sourceForm';
import { SECURITIES } from '../common/choices';
import { numberOf, printText, text, type Fields } from '../common/protocols';
import type { Offer } from '../../../entities/sources';
import { discoverServer } from '../../../entities/sources';

/** Ways to sign in that we have. */
const USABLE = new Set(['anonymous', 'user name']);

interface OpcUaFieldsProps {
  form: UseFormReturn<SourceForm>;
  /** A password is kept already. */
  kept: boolean;
}

export function OpcUaFields({ form, kept }: OpcUaFieldsProps): ReactElement {
  const config = useWatch({ control: form.control, name: 'config' });
  const put = (change: Fields): void =>
    form.setValue('config', { ...config, ...change }, { shouldDirty: true });
  const trusted = text(config['trusted']);
  const secure = config['security'] !== 'None';
  return (
    <>
      <SourceField.Text name="config.endpoint" label={common.server} hint={wording.opcTcpHostPort} />
      <Offers config={config} onConfig={put} />
      <SourceField.Part<string> name="config.security">
        {({ value, problem }) => (
          <Choice
            label={wording.security}
            value={`${value}/${text(config['mode'])}`}
            options={SECURITIES}
            onChange={(next) => {
              const [security = 'None', mode = 'None'] = next.split('/');
              put({ security, mode });
            }}
            problem={problem}
          />
        )}
      </SourceField.Part>
      {secure && trusted === '' && <Told kind="error">{wording.noCertificateOfTheServerIs}</Told>}
      {secure && trusted !== '' && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Print label={wording.trustedCertificateOfTheServer} hex={trusted} />
          <Button size="small" onClick={() => put({ trusted: '' })}>
            {wording.doNotTrust}
          </Button>
        </Box>
      )}
      <Pairs>
        <SourceField.Text name="config.user" label={wording.user} placeholder={wording.anonymous} />
        <SourceField.Part<string | null> name="secret">
          {({ value, onChange, problem }) => (
            <TextLine
              label={wording.password}
              hidden
              value={value ?? ''}
              placeholder={kept ? wording.storedTypeToChangeIt : common.none}
              onChange={(typed) => onChange(typed === '' ? null : typed)}
              problem={problem}
              {...(!secure && text(config['user']) !== ''
                ? { hint: wording.withoutSecurityItMayCrossThe }
                : {})}
            />
          )}
        </SourceField.Part>
        <SourceField.Number name="config.timeout_s" label={wording.answersWithinS} />
      </Pairs>
      <SourceField.Switch name="config.history" label={wording.fillOutagesFromTheServersOwn} />
    </>
  );
}

interface OffersProps {
  config: Fields;
  onConfig: (change: Fields) => void;
}

/** What the server offers, on demand; taking an offer trusts the certificate that is shown with it. */
function Offers({ config, onConfig }: OffersProps): ReactElement {
  const asking = useMutation({
    mutationFn: () => discoverServer(text(config['endpoint']), numberOf(config['timeout_s'], 4)),
  });
  const take = (offer: Offer): void =>
    onConfig({
      security: offer.security,
      mode: offer.mode,
      trusted: offer.security === 'None' ? '' : offer.certificate,
    });
  const found = asking.data;
  const signIn = [...new Set(found?.offers.flatMap((one) => one.sign_in))].filter((one) => USABLE.has(one));
  const prints = [...new Set(found?.offers.map((one) => one.certificate).filter((one) => one !== ''))];
  return (
    <Box component="section" aria-label={wording.whatTheServerOffers} sx={{ display: 'grid', gap: 1 }}>
      <Offered>
        {' '}
        <Button
          size="small"
          variant="outlined"
          disabled={asking.isPending}
          onClick={() => asking.mutate()}
          sx={{ justifySelf: 'start' }}
        >
          {asking.isPending ? wording.asking : wording.askWhatTheServerOffers}
        </Button>
      </Offered>
      {asking.error !== null && <Told kind="error">{errorText(asking.error)}</Told>}
      {found !== undefined && !found.ok && (
        <Told kind="error">{fill(wording.noAnswerReason, { reason: found.reason })}</Told>
      )}
      {found?.ok === true && (
        <>
          {prints.map((hex) => (
            <Print
              key={hex}
              label={fill(wording.certificateOfName, { name: found.offers[0]?.name ?? wording.theServer })}
              hex={hex}
            />
          ))}
          <Print label={wording.ourCertificateForItsAdministrator} hex={found.own_certificate} />
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            {signIn.length === 0
              ? wording.theServerAcceptsNoUserNames
              : fill(wording.acceptedSignInSignIn, { signIn: signIn.join(', ') })}
          </Typography>
          {found.offers.map((one) => (
            <Box
              key={`${one.security}/${one.mode}`}
              sx={{ typography: 'body2', display: 'flex', alignItems: 'center', gap: 1 }}
            >
              <Box sx={{ flex: 1 }}>
                {SECURITIES.find((s) => s.value === `${one.security}/${one.mode}`)?.label ??
                  `${one.security}, ${one.mode}`}
              </Box>
              <Button size="small" onClick={() => take(one)}>
                {one.certificate === '' || one.security === 'None' ? common.take : wording.trustAndUse}
              </Button>
            </Box>
          ))}
        </>
      )}
    </Box>
  );
}

function Print({ label, hex }: { label: string; hex: string }): ReactElement {
  return (
    <Box sx={{ flex: 1 }}>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {label}
      </Typography>
      <Typography variant="caption" sx={{ fontFamily: 'monospace' }}>
        {printText(hex.replaceAll(':', ''))}
      </Typography>
    </Box>
  );
}
