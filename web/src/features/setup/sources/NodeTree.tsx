/** The address space of an OPC UA server as a tree; its variables are chosen to become tags. */
import { Box, Button, Checkbox } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { Told } from '../../../ui';
import type { Source, UaNode } from '../../../entities/sources';
import { nodesQuery } from '../../../entities/sources';

/** A chosen variable, and the names of the folders that lead to it. */
export interface Chosen {
  node: UaNode;
  path: readonly string[];
}

interface NodeTreeProps {
  source: Source;
  chosen: ReadonlyMap<string, Chosen>;
  onChoose: (chosen: ReadonlyMap<string, Chosen>) => void;
}

export function NodeTree(props: NodeTreeProps): ReactElement {
  return (
    <Box
      role="tree"
      aria-label={`What ${props.source.name} has`}
      aria-multiselectable
      sx={{ maxHeight: 300, overflow: 'auto', border: 1, borderColor: 'divider', borderRadius: 1, p: 0.5 }}
    >
      <Children {...props} node="" path={[]} />
    </Box>
  );
}

interface ChildrenProps extends NodeTreeProps {
  node: string;
  path: readonly string[];
}

function Children({ node, ...props }: ChildrenProps): ReactElement {
  const { source, path, chosen, onChoose } = props;
  const { data, error, isPending } = useQuery(nodesQuery(source, node));
  if (isPending) return <Box sx={{ pl: 4, fontSize: 13, color: 'text.secondary' }}>Looking …</Box>;
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  if (!data.ok) return <Told kind="error">No answer: {data.reason}</Told>;
  const usable = data.nodes.filter((one) => one.value_type !== '');
  const all = usable.every((one) => chosen.has(one.node));
  const chooseAll = (): void => {
    const next = new Map(chosen);
    for (const one of usable) {
      if (all) next.delete(one.node);
      else next.set(one.node, { node: one, path });
    }
    onChoose(next);
  };
  return (
    <>
      {usable.length > 1 && (
        <Button size="small" sx={{ ml: 3 }} onClick={chooseAll}>
          {all ? 'None of these' : `All ${usable.length} of these`}
        </Button>
      )}
      {data.nodes.map((one) => (
        <Branch key={one.node} {...props} node={one} />
      ))}
      {data.nodes.length === 0 && (
        <Box sx={{ pl: 4, fontSize: 13, color: 'text.secondary' }}>Nothing lies here.</Box>
      )}
      {data.more && <Told kind="error">There are more; name the node of the tag instead.</Told>}
    </>
  );
}

function Branch({
  node,
  path,
  ...props
}: NodeTreeProps & { node: UaNode; path: readonly string[] }): ReactElement {
  const [open, setOpen] = useState(false);
  const picked = props.chosen.has(node.node);
  const pick = (): void => {
    const next = new Map(props.chosen);
    if (picked) next.delete(node.node);
    else next.set(node.node, { node, path });
    props.onChoose(next);
  };
  return (
    <Box role="treeitem" aria-expanded={node.variable ? undefined : open} aria-selected={picked}>
      <Box sx={{ display: 'flex', alignItems: 'center', pl: path.length * 2, fontSize: 13 }}>
        {node.variable ? (
          <Checkbox
            size="small"
            sx={{ p: 0.25 }}
            checked={picked}
            disabled={node.value_type === ''}
            onChange={pick}
            slotProps={{ input: { 'aria-label': node.name } }}
          />
        ) : (
          <Button
            size="small"
            aria-label={`${open ? 'Close' : 'Open'} ${node.name}`}
            onClick={() => setOpen(!open)}
            sx={{ minWidth: 24, p: 0 }}
          >
            {open ? '−' : '+'}
          </Button>
        )}
        <Box sx={{ flex: 1, ml: 0.5 }}>{node.name}</Box>
        <Box sx={{ color: 'text.secondary', fontVariantNumeric: 'tabular-nums', whiteSpace: 'nowrap' }}>
          {node.variable ? valueText(node) : ''}
        </Box>
      </Box>
      {open && <Children {...props} node={node.node} path={[...path, node.name]} />}
    </Box>
  );
}

function valueText(node: UaNode): string {
  if (node.value_type === '') return 'cannot be recorded';
  return typeof node.value === 'number' && !Number.isInteger(node.value)
    ? String(Number(node.value.toPrecision(6)))
    : String(node.value);
}
