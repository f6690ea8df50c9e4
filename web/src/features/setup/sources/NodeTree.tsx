/** The address space of an OPC UA server as a tree; its variables are chosen to become tags. */
import { Box } from '@mui/material';
import { useTreeItemModel } from '@mui/x-tree-view/hooks';
import { RichTreeView } from '@mui/x-tree-view/RichTreeView';
import { TreeItem, type TreeItemProps } from '@mui/x-tree-view/TreeItem';
import { useQueries } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/setup-sources.json';
import { fill } from '../../../domain/fill';
import type { Source } from '../../../entities/sources';
import { nodesQuery } from '../../../entities/sources';
import {
  isSelectable,
  nodeItems,
  nodeOf,
  ROOT,
  selectedItems,
  toggledNodes,
  type Chosen,
  type NodeItem,
} from './nodeItems';

interface NodeTreeProps {
  source: Source;
  chosen: ReadonlyMap<string, Chosen>;
  onChoose: (chosen: ReadonlyMap<string, Chosen>) => void;
}

/** What lies in a folder is asked for when it is opened. */
export function NodeTree({ source, chosen, onChoose }: NodeTreeProps): ReactElement {
  const [expanded, setExpanded] = useState<string[]>([]);
  // A folder that is closed again keeps what is known of it, and what is chosen in it.
  const [opened, setOpened] = useState<string[]>([ROOT]);
  const answers = useQueries({ queries: opened.map((id) => nodesQuery(source, nodeOf(id))) });
  const found = new Map(opened.map((id, i) => [id, answers[i]]));
  const items = nodeItems(found);
  return (
    <RichTreeView<NodeItem, true>
      aria-label={fill(wording.whatNameHas, { name: source.name })}
      items={items}
      multiSelect
      checkboxSelection
      selectionPropagation={{ descendants: true, parents: true }}
      isItemSelectionDisabled={(item) => !isSelectable(item)}
      expandedItems={expanded}
      onExpandedItemsChange={(_, next) => {
        setExpanded(next);
        setOpened([...new Set([...opened, ...next])]);
      }}
      selectedItems={selectedItems(items, chosen)}
      onSelectedItemsChange={(_, next) => onChoose(toggledNodes(items, chosen, next))}
      slots={{ item: NodeRow }}
      sx={{ maxHeight: 300, overflow: 'auto', border: 1, borderColor: 'divider', borderRadius: 1, p: 0.5 }}
    />
  );
}

/** The name of a node, and the value that it has. */
function NodeRow(props: TreeItemProps): ReactElement {
  const item = useTreeItemModel<NodeItem>(props.itemId);
  return (
    <TreeItem
      {...props}
      label={
        <Box sx={{ typography: 'body2', display: 'flex', gap: 1 }}>
          <Box sx={{ flex: 1 }}>{item?.label}</Box>
          <Box sx={{ fontVariantNumeric: 'tabular-nums', whiteSpace: 'nowrap' }}>{item?.value}</Box>
        </Box>
      }
    />
  );
}
