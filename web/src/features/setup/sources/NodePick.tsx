/** Many tags at once from an OPC UA server: chosen in its tree, named by where they lie. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { DurationLine, Pairs, TextLine, Told } from '../../../ui';
import { NodeTree } from './NodeTree';
import type { Chosen } from './nodeItems';
import { placeText } from '../common/protocols';
import { useSave } from '../common/useSave';
import type { Source } from '../../../entities/sources';
import type { TagIn } from '../../../entities/tags';
import { addTags } from '../../../entities/tags';

interface NodePickProps {
  source: Source;
  /** What new tags have in common. */
  like: TagIn;
  logger: string;
}

const NONE: ReadonlyMap<string, Chosen> = new Map();
const MOST_SHOWN = 6;

export function NodePick({ source, like, logger }: NodePickProps): ReactElement {
  const [chosen, setChosen] = useState(NONE);
  const [pattern, setPattern] = useState('{folder} {name}');
  const [scan, setScan] = useState(like.scan_us);
  const tags = [...chosen.values()].map((one) => tagOf(one, like, pattern, scan));
  const saving = useSave(
    () =>
      addTags({
        tags,
        count: 1,
        start: 1,
        step: null,
        logger: logger === '' ? null : logger,
        dry_run: false,
      }),
    ['pattern'],
    () => setChosen(NONE),
  );
  return (
    <Box component="section" aria-label="From the server" sx={{ display: 'grid', gap: 1.5 }}>
      <NodeTree source={source} chosen={chosen} onChoose={setChosen} />
      <Pairs>
        <TextLine
          label="Names"
          value={pattern}
          onChange={setPattern}
          hint="{folder} and {name} are those of the server"
        />
        <DurationLine label="Sampled every" value={scan} onChange={setScan} />
      </Pairs>
      {tags.length > 0 && (
        <Box
          component="ul"
          aria-label="Tags from the server"
          sx={{ typography: 'caption', m: 0, pl: 2, color: 'text.secondary' }}
        >
          {tags.slice(0, MOST_SHOWN).map((one) => (
            <li key={placeText(one.address)}>{`${one.name}: ${placeText(one.address)}`}</li>
          ))}
          {tags.length > MOST_SHOWN && <li>… and {tags.length - MOST_SHOWN} more</li>}
        </Box>
      )}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      {saving.done && <Told kind="good">Added. The recorder follows them within 2 s.</Told>}
      <Button
        variant="contained"
        size="small"
        disabled={tags.length === 0 || saving.busy}
        onClick={() => saving.run(null)}
        sx={{ justifySelf: 'end' }}
      >
        {tags.length === 1 ? 'Add 1 tag' : `Add ${tags.length} tags`}
      </Button>
    </Box>
  );
}

function tagOf({ node, path }: Chosen, like: TagIn, pattern: string, scan: number): TagIn {
  const folder = path.at(-1) ?? '';
  return {
    ...like,
    name: pattern.replaceAll('{folder}', folder).replaceAll('{name}', node.name).trim(),
    address: { node: node.node },
    value_type: node.value_type as NonNullable<TagIn['value_type']>,
    stepped: node.value_type !== 'float',
    equipment: like.equipment === '' ? path.join('/') : like.equipment,
    scan_us: scan,
  };
}
