/** The plant beside the list of tags: what is chosen here is what the list shows. */
import { Box } from '@mui/material';
import { useTreeItemModel } from '@mui/x-tree-view/hooks';
import { RichTreeView } from '@mui/x-tree-view/RichTreeView';
import { TreeItem, type TreeItemProps } from '@mui/x-tree-view/TreeItem';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { equipmentQuery } from '../../../entities/tags';
import { above, ALL, equipmentItems, type EquipmentItem } from './equipmentItems';

interface EquipmentTreeProps {
  /** A path; '': all. */
  chosen: string;
  onChoose: (path: string) => void;
}

export function EquipmentTree({ chosen, onChoose }: EquipmentTreeProps): ReactElement {
  const { data: equipment = [] } = useQuery(equipmentQuery);
  const items = useMemo(
    () => [{ id: ALL, label: wording.allTags, tags: 0, children: [] }, ...equipmentItems(equipment)],
    [equipment],
  );
  const [expanded, setExpanded] = useState<readonly string[]>(() => above(chosen));
  return (
    <RichTreeView<EquipmentItem, false>
      aria-label={common.equipment}
      items={items}
      selectedItems={chosen === '' ? ALL : chosen}
      onSelectedItemsChange={(_, id) => onChoose(id === null || id === ALL ? '' : id)}
      expandedItems={[...expanded]}
      onExpandedItemsChange={(_, next) => setExpanded(next)}
      slots={{ item: Row }}
      sx={{ '& .MuiTreeItem-content': { py: 0.25, px: 0.5, gap: 0.5 } }}
    />
  );
}

/** The name of a piece, and how many tags it has with all below it. */
function Row(props: TreeItemProps): ReactElement {
  const item = useTreeItemModel<EquipmentItem>(props.itemId);
  return (
    <TreeItem
      {...props}
      label={
        <Box sx={{ typography: 'body2', display: 'flex', gap: 1 }}>
          <Box sx={{ flex: 1, overflow: 'hidden', textOverflow: 'ellipsis' }}>{item?.label}</Box>
          {item !== null && item.id !== ALL && (
            <Box component="span" sx={{ fontVariantNumeric: 'tabular-nums' }}>
              {item.tags}
            </Box>
          )}
        </Box>
      }
    />
  );
}
