/** The settings of an OPC UA server: where it is, how it is spoken to, and whose certificate is trusted. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { Choice, NumberLine, Pairs, Switched, TextLine, Told } from '../../../ui';
import { numberOf, printText, SECURITIES, text, type Fields } from '../common/protocols';
import type { Offer } from '../../../entities/sources';
import { discoverServer } from '../../../entities/sources';

/** Ways to sign in that we have. */
const USABLE = new Set(['anonymous', 'user name']);

interface OpcUaFieldsProps {
  config: Fields;
  secret: string | null;
  /** A password is kept already. */
  kept: boolean;
  onConfig: (config: Fields) => void;
  onSecret: (secret: string | null) => void;
  problem: (field: string) => string | undefined;
}

export function OpcUaFields({
  config,
  secret,
  kept,
  onConfig,
  onSecret,
  problem,
}: OpcUaFieldsProps): ReactElement {
  const set = (name: string) => (value: unknown) => onConfig({ ...config, [name]: value });
  const trusted = text(config['trusted']);
  const secure = config['security'] !== 'None';
  return (
    <>
      <TextLine
        label="Server"
        value={text(config['endpoint'])}
        onChange={set('endpoint')}
        problem={problem('endpoint')}
        hint="opc.tcp://host:port"
      />
      <Offers config={config} onConfig={onConfig} />
      <Choice
        label="Security"
        value={`${text(config['security'])}/${text(config['mode'])}`}
        options={SECURITIES}
        onChange={(value) => {
          const [security = 'None', mode = 'None'] = value.split('/');
          onConfig({ ...config, security, mode });
        }}
        problem={problem('security') ?? problem('mode')}
      />
      {secure && trusted === '' && (
        <Told kind="error">
          No certificate of the server is trusted yet. Ask the server what it offers, compare its certificate,
          and trust it.
        </Told>
      )}
      {secure && trusted !== '' && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Print label="Trusted certificate of the server" hex={trusted} />
          <Button size="small" onClick={() => set('trusted')('')}>
            Do not trust
          </Button>
        </Box>
      )}
      <Pairs>
        <TextLine
          label="User"
          value={text(config['user'])}
          placeholder="anonymous"
          onChange={set('user')}
          problem={problem('user')}
        />
        <TextLine
          label="Password"
          hidden
          value={secret ?? ''}
          placeholder={kept ? 'kept; type to change it' : 'none'}
          onChange={(value) => onSecret(value === '' ? null : value)}
          problem={problem('secret')}
          {...(!secure && text(config['user']) !== ''
            ? { hint: 'Without security it may cross the network for all to read.' }
            : {})}
        />
        <NumberLine
          label="Answers within, s"
          value={numberOf(config['timeout_s'], 4)}
          onChange={set('timeout_s')}
          problem={problem('timeout_s')}
        />
      </Pairs>
      <Switched
        label="Fill outages from the server’s own history"
        value={config['history'] !== false}
        onChange={set('history')}
      />
    </>
  );
}

/** What the server offers, on demand; taking an offer trusts the certificate that is shown with it. */
function Offers({ config, onConfig }: Pick<OpcUaFieldsProps, 'config' | 'onConfig'>): ReactElement {
  const asking = useMutation({
    mutationFn: () => discoverServer(text(config['endpoint']), numberOf(config['timeout_s'], 4)),
  });
  const take = (offer: Offer): void =>
    onConfig({
      ...config,
      security: offer.security,
      mode: offer.mode,
      trusted: offer.security === 'None' ? '' : offer.certificate,
    });
  const found = asking.data;
  const signIn = [...new Set(found?.offers.flatMap((one) => one.sign_in))].filter((one) => USABLE.has(one));
  const prints = [...new Set(found?.offers.map((one) => one.certificate).filter((one) => one !== ''))];
  return (
    <Box component="section" aria-label="What the server offers" sx={{ display: 'grid', gap: 1 }}>
      <Button
        size="small"
        variant="outlined"
        disabled={asking.isPending}
        onClick={() => asking.mutate()}
        sx={{ justifySelf: 'start' }}
      >
        {asking.isPending ? 'Asking …' : 'Ask what it offers'}
      </Button>
      {asking.error !== null && <Told kind="error">{errorText(asking.error)}</Told>}
      {found !== undefined && !found.ok && <Told kind="error">No answer: {found.reason}</Told>}
      {found?.ok === true && (
        <>
          {prints.map((hex) => (
            <Print key={hex} label={`Certificate of ${found.offers[0]?.name ?? 'the server'}`} hex={hex} />
          ))}
          <Print label="Our certificate, for its administrator" hex={found.own_certificate} />
          <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
            {signIn.length === 0 ? 'It lets nobody in by user name.' : `It lets in: ${signIn.join(', ')}.`}
          </Typography>
          {found.offers.map((one) => (
            <Box
              key={`${one.security}/${one.mode}`}
              sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 13 }}
            >
              <Box sx={{ flex: 1 }}>
                {SECURITIES.find((s) => s.value === `${one.security}/${one.mode}`)?.label ??
                  `${one.security}, ${one.mode}`}
              </Box>
              <Button size="small" onClick={() => take(one)}>
                {one.certificate === '' || one.security === 'None' ? 'Take' : 'Trust and take'}
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
      <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{label}</Typography>
      <Typography sx={{ fontSize: 12, fontFamily: 'monospace' }}>
        {printText(hex.replaceAll(':', ''))}
      </Typography>
    </Box>
  );
}
