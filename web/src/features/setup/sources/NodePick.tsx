/** Many tags at once from an OPC UA server: chosen in its tree, named by where they lie. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import { useNavigate } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-sources.json';
import { fill } from '../../../domain/fill';
import { Pairs, Told, type Typed, Offered } from '../../../ui';
import { fieldsOf, InnerFields, shapes, useSentForm } from '../../../ui/form';
import { NodeTree } from './NodeTree';
import type { Chosen } from './nodeItems';
import { placeText } from '../common/protocols';
import { useAskAnew } from '../common/useSave';
import type { Source } from '../../../entities/sources';
import type { TagIn } from '../../../entities/tags';
import { addTags, type TagsOut } from '../../../entities/tags';

interface NodePickProps {
  source: Source;
  /** What new tags have in common. */
  like: TagIn;
  logger: string;
  /** They are there: what was entered for all of them is no longer unsaved. */
  onAdded: () => void;
}

const NONE: ReadonlyMap<string, Chosen> = new Map();
const MOST_SHOWN = 6;
/** Pens of a trend. */
const MOST_DRAWN = 32;

interface Naming {
  pattern: string;
  /** What is added is drawn at once, as temporary tags. */
  isDrawn: boolean;
  scan: Typed;
}
type Names = Pick<Naming, 'pattern' | 'scan'>;
const Fields = fieldsOf<Naming>();
const SHAPE = shapes.shape({
  pattern: shapes.filled(wording.giveAPatternForTheNames),
  scan: shapes.duration,
});

export function NodePick({ source, like, logger, onAdded }: NodePickProps): ReactElement {
  const [chosen, setChosen] = useState(NONE);
  const askAnew = useAskAnew();
  const navigate = useNavigate();
  const adding = useSentForm<Naming, TagsOut>({
    values: { pattern: '{folder} {name}', scan: like.scan_us, isDrawn: false },
    shape: SHAPE,
    send: (naming) =>
      addTags({
        tags: tagsOf(chosen, like, naming),
        count: 1,
        start: 1,
        step: null,
        logger: logger === '' || naming.isDrawn ? null : logger,
        temporary: naming.isDrawn,
        dry_run: false,
      }),
    onDone: async ({ uids }) => {
      onAdded();
      if (adding.form.getValues('isDrawn')) {
        void navigate(`/trends?tags=${uids.slice(0, MOST_DRAWN).join(',')}&last=PT10M&scale=fit`);
        return;
      }
      await askAnew();
      setChosen(NONE);
    },
    stays: true,
  });
  const send = (isDrawn: boolean) => (): void => {
    adding.form.setValue('isDrawn', isDrawn);
    adding.send();
  };
  const [pattern, scan] = useWatch({ control: adding.form.control, name: ['pattern', 'scan'] });
  const tags = tagsOf(chosen, like, { pattern, scan });
  return (
    <Box component="section" aria-label={wording.fromTheServer} sx={{ display: 'grid', gap: 1.5 }}>
      <NodeTree source={source} chosen={chosen} onChoose={setChosen} />
      <InnerFields of={adding}>
        <Pairs>
          <Fields.Text name="pattern" label={wording.names} hint={wording.folderAndNameAreThoseOf} />
          <Fields.Duration name="scan" label={wording.sampledEvery} />
        </Pairs>
      </InnerFields>
      {tags.length > 0 && (
        <Box
          component="ul"
          aria-label={wording.tagsFromTheServer}
          sx={{ typography: 'caption', m: 0, pl: 2, color: 'text.secondary' }}
        >
          {tags.slice(0, MOST_SHOWN).map((one) => (
            <li key={placeText(one.address)}>{`${one.name}: ${placeText(one.address)}`}</li>
          ))}
          {tags.length > MOST_SHOWN && (
            <li>{fill(common.restMoreFollow, { rest: tags.length - MOST_SHOWN })}</li>
          )}
        </Box>
      )}
      {adding.done && <Told kind="good">{wording.addedTheRecorderFollowsThemWithin}</Told>}
      <Offered>
        {' '}
        <Box sx={{ display: 'flex', gap: 1, justifySelf: 'end' }}>
          <Button
            size="small"
            title={wording.drawnTagsAreTemporaryTheyGo}
            disabled={tags.length === 0 || adding.busy}
            onClick={send(true)}
          >
            {wording.drawNow}
          </Button>
          <Button
            variant="contained"
            size="small"
            disabled={tags.length === 0 || adding.busy}
            onClick={send(false)}
          >
            {fill(wording.addTags, { count: tags.length })}
          </Button>
        </Box>
      </Offered>
    </Box>
  );
}

function tagsOf(chosen: ReadonlyMap<string, Chosen>, like: TagIn, naming: Names): TagIn[] {
  return [...chosen.values()].map((one) => tagOf(one, like, naming));
}

function tagOf({ node, path }: Chosen, like: TagIn, { pattern, scan }: Names): TagIn {
  const folder = path.at(-1) ?? '';
  return {
    ...like,
    name: pattern.replaceAll(wording.folder, folder).replaceAll('{name}', node.name).trim(),
    address: { node: node.node },
    value_type: node.value_type as NonNullable<TagIn['value_type']>,
    stepped: node.value_type !== 'float',
    equipment: like.equipment === '' ? path.join('/') : like.equipment,
    // What is mistyped is not sent: the form says so first.
    scan_us: Number(scan),
  };
}
