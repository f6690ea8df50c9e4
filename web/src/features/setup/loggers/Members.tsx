/** The tags of a logger: which they are, and how to take one out. */
import { Close } from '@mui/icons-material';
import { Box, Button, IconButton, InputBase, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement, type ReactNode } from 'react';
import { InnerForm, Told } from '../../../ui';
import { loggerBody, loggerForm, type LoggerForm } from './loggerForm';
import { RULE_PLACES, RuleFields } from './RuleFields';
import { useSave } from '../common/useSave';
import { tagNamesQuery } from '../../../entities/tags';
import { TagChoice } from '../../../entities/TagChoice';
import type { Logger, OnChangeLogger, Rule, TriggeredLogger } from '../../../entities/loggers';
import { saveLogger, changeMembers } from '../../../entities/loggers';

const PAGE = 50;

export function Members({ logger }: { logger: Logger }): ReactElement {
  const uids = logger.tags;
  const [page, setPage] = useState(0);
  const shown = uids.slice(page * PAGE, (page + 1) * PAGE);
  const { data: tags = [] } = useQuery(tagNamesQuery(shown));
  const [own, setOwn] = useState<string | null>(null);
  const [inhibited, setInhibited] = useState<string | null>(null);
  const leaving = useSave((uid: string) => changeMembers(logger.uid, [], [uid]), []);
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <Typography variant="subtitle2">{uids.length === 0 ? 'No tags yet' : `${uids.length} tags`}</Typography>
      {uids.length === 0 && <Told>Choose tags under Tags, then this logger.</Told>}
      <Box component="ul" aria-label="Tags of the logger" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {tags.map((tag) => (
          <Box component="li" key={tag.uid} sx={{ display: 'flex', alignItems: 'center', minHeight: 26 }}>
            <Typography noWrap variant="caption" sx={{ flex: 1 }}>
              {tag.name}
            </Typography>
            {logger.mode === 'on_change' && (
              <Button size="small" sx={{ typography: 'caption', py: 0 }} onClick={() => setOwn(tag.uid)}>
                {logger.overrides?.[tag.uid] === undefined ? 'Own rule …' : 'Its own rule'}
              </Button>
            )}
            <Button size="small" sx={{ typography: 'caption', py: 0 }} onClick={() => setInhibited(tag.uid)}>
              {logger.inhibits?.[tag.uid] === undefined ? 'Inhibit tag …' : 'Its inhibit tag'}
            </Button>
            {logger.mode === 'on_trigger' && <ColumnName logger={logger} uid={tag.uid} name={tag.name} />}
            <IconButton
              size="small"
              aria-label={`Take ${tag.name} out`}
              disabled={leaving.busy}
              onClick={() => leaving.run(tag.uid)}
            >
              <Close fontSize="small" />
            </IconButton>
          </Box>
        ))}
      </Box>
      {logger.mode === 'on_change' && own !== null && uids.includes(own) && (
        <OwnRule
          key={own}
          logger={logger}
          uid={own}
          name={tags.find((tag) => tag.uid === own)?.name ?? ''}
          onDone={() => setOwn(null)}
        />
      )}
      {inhibited !== null && uids.includes(inhibited) && (
        <OwnInhibit
          key={inhibited}
          logger={logger}
          uid={inhibited}
          name={tags.find((tag) => tag.uid === inhibited)?.name ?? ''}
          onDone={() => setInhibited(null)}
        />
      )}
      {uids.length > PAGE && (
        <Box sx={{ typography: 'caption', display: 'flex', gap: 1, alignItems: 'center' }}>
          <button type="button" disabled={page === 0} onClick={() => setPage(page - 1)}>
            Back
          </button>
          {page * PAGE + 1} to {Math.min((page + 1) * PAGE, uids.length)}
          <button type="button" disabled={(page + 1) * PAGE >= uids.length} onClick={() => setPage(page + 1)}>
            On
          </button>
        </Box>
      )}
      {leaving.general !== null && <Told kind="error">{leaving.general}</Told>}
    </Box>
  );
}

interface OwnPartProps {
  title: string;
  problem: string | null;
  /** Buttons before the one that closes it. */
  actions: ReactNode;
  onClose: () => void;
  children: ReactNode;
}

/** What is one member's own, below the list. */
function OwnPart({ title, problem, actions, onClose, children }: OwnPartProps): ReactElement {
  return (
    <Box
      role="group"
      aria-label={title}
      sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, border: 1, borderColor: 'divider', p: 1.5 }}
    >
      <Typography variant="subtitle2">{title}</Typography>
      {children}
      {problem !== null && <Told kind="error">{problem}</Told>}
      <Box sx={{ display: 'flex', gap: 1 }}>
        {actions}
        <Button size="small" onClick={onClose}>
          Close
        </Button>
      </Box>
    </Box>
  );
}

interface OwnRuleProps<T = Logger> {
  logger: T;
  uid: string;
  name: string;
  onDone: () => void;
}

/** A rule of one member's own: one deadband for tags of different units makes no sense. */
function OwnRule({ logger, uid, name, onDone }: OwnRuleProps<OnChangeLogger>): ReactElement {
  const known = logger.overrides?.[uid];
  const [rule, setRule] = useState<Rule>(known ?? logger.rule);
  const saving = useSave(
    async (wanted: Rule | null) => {
      const overrides = withOwn(logger.overrides, uid, wanted);
      return change(logger, { overrides });
    },
    Object.keys(RULE_PLACES),
    onDone,
  );
  const problem = (part: string): string | undefined =>
    Object.entries(RULE_PLACES)
      .filter(([, place]) => place === `rule.${part}`)
      .map(([name]) => saving.problem(name))
      .find((one) => one !== undefined);
  return (
    <OwnPart
      title={`Rule of ${name}`}
      problem={saving.general}
      onClose={onDone}
      actions={
        <>
          {' '}
          <Button size="small" variant="outlined" disabled={saving.busy} onClick={() => saving.run(rule)}>
            Keep its own rule
          </Button>
          {known !== undefined && (
            <Button size="small" disabled={saving.busy} onClick={() => saving.run(null)}>
              Follow the logger again
            </Button>
          )}
        </>
      }
    >
      <RuleFields key={rule.kind} rule={rule} onChange={setRule} problem={problem} />
    </OwnPart>
  );
}

/** A tag that holds one member off while it is on; the others go on being recorded. */
function OwnInhibit({ logger, uid, name, onDone }: OwnRuleProps): ReactElement {
  const [tag, setTag] = useState<string | null>(logger.inhibits?.[uid] ?? null);
  const saving = useSave(
    async (wanted: string | null) => {
      const inhibits = withOwn(logger.inhibits, uid, wanted);
      return change(logger, { inhibits });
    },
    ['inhibits'],
    onDone,
  );
  return (
    <OwnPart
      title={`Inhibit tag of ${name}`}
      problem={saving.general}
      onClose={onDone}
      actions={
        <>
          {' '}
          <Button size="small" variant="outlined" disabled={saving.busy} onClick={() => saving.run(tag)}>
            Save inhibit tag
          </Button>
        </>
      }
    >
      <TagChoice label="Not recorded while" value={tag} none="no tag of its own" onChange={setTag} />
    </OwnPart>
  );
}

/** The name of a record's column; it is saved by Enter, and when one leaves the field. */
function ColumnName({ logger, uid, name }: Omit<OwnRuleProps<TriggeredLogger>, 'onDone'>): ReactElement {
  const known = logger.columns?.[uid] ?? '';
  const [text, setText] = useState(known);
  const saving = useSave(async () => {
    return change(logger, { columns: { ...logger.columns, [uid]: text } });
  }, []);
  const save = (): void => {
    if (text !== known) saving.run(null);
  };
  return (
    <InnerForm onEnter={save}>
      <InputBase
        value={text}
        placeholder={name}
        error={saving.general !== null}
        title={saving.general ?? ''}
        onChange={(event) => setText(event.target.value)}
        onBlur={save}
        inputProps={{ 'aria-label': `Column for ${name}`, maxLength: 100 }}
        sx={{ typography: 'caption', width: 130, borderBottom: 1, borderColor: 'divider' }}
      />
    </InnerForm>
  );
}

type OwnOf<T> = Readonly<Record<string, T>> | undefined;

/** What members have of their own, with another value for one; none: it follows the logger. */
function withOwn<T>(own: OwnOf<T>, uid: string, value: T | null): Record<string, T> {
  const others = Object.entries(own ?? {}).filter(([key]) => key !== uid);
  return Object.fromEntries(value === null ? others : [...others, [uid, value]]);
}

function change(logger: Logger, changes: Partial<LoggerForm>): Promise<Logger> {
  const form = { ...loggerForm(logger, []), ...changes };
  return saveLogger(logger.uid, loggerBody(form, logger.revision));
}
