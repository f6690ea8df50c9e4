/** The menu of other equipment that the same trend can be shown for. */
import { Menu, MenuItem, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { findSisters, sisterEquipmentQuery } from '../../../entities/tags';
import { errorText } from '../../../platform/errors';
import { Told } from '../../../ui';
import type { MenuProps } from './CompareMenu';

export function SisterMenu({ anchor, uids, sisterTags, on, onClose }: MenuProps): ReactElement {
  const { data = [], isPending, error } = useQuery(sisterEquipmentQuery(uids));
  const asking = useMutation({
    mutationFn: (other: string) => findSisters(sisterTags, other),
    onSuccess: (pairs, other) => {
      on.onSisters(other, pairs);
      onClose();
    },
  });
  const failed = error ?? asking.error;
  return (
    <Menu
      open
      anchorEl={anchor}
      onClose={onClose}
      slotProps={{ list: { 'aria-label': wording.sameTrendFor } }}
    >
      <Typography
        component="li"
        role="presentation"
        variant="caption"
        sx={{ px: 2, color: 'text.secondary' }}
      >
        {isPending
          ? wording.readingTheEquipment
          : data.length === 0
            ? wording.noOtherEquipmentHasTagsOf
            : wording.sameTrendFor}
      </Typography>
      {data.map(({ equipment, tags }) => (
        <MenuItem
          key={equipment}
          dense
          disabled={asking.isPending}
          onClick={() => asking.mutate(equipment)}
          sx={{ justifyContent: 'space-between', gap: 2 }}
        >
          {equipment}
          {tags < uids.length && (
            <Typography component="span" variant="caption" sx={{ color: 'text.secondary' }}>
              {fill(wording.tagsOfCountPens, { tags, count: uids.length })}
            </Typography>
          )}
        </MenuItem>
      ))}
      {failed !== null && <Told kind="error">{errorText(failed)}</Told>}
    </Menu>
  );
}
