/** The tags that a new logger begins with. */
import { Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { fill } from '../../../domain/fill';
import { tagNamesQuery } from '../../../entities/tags';
import { Told } from '../../../ui';
import { Chosen } from '../../../ui/fields/Chosen';
import type { Bound } from '../../../ui/form';
import { FindMembers } from './FindMembers';

/** So many are named; of more the number says enough. */
const NAMED = 20;

export function NewMembers({ value, onChange, problem }: Bound<string[]>): ReactElement {
  const { data: tags = [] } = useQuery(tagNamesQuery(value.slice(0, NAMED)));
  const rest = value.length - NAMED;
  return (
    <>
      <Typography variant="subtitle2">
        {value.length === 0 ? wording.noTagsYet : fill(common.countTags, { count: value.length })}
      </Typography>
      <Chosen
        label={wording.tagsOfTheNewLogger}
        entries={tags.filter(({ uid }) => value.includes(uid)).map(({ uid, name }) => ({ key: uid, name }))}
        onRemove={(uid) => onChange(value.filter((one) => one !== uid))}
        mayBeNone
      />
      {rest > 0 && <Told>{fill(common.andRestMore, { rest })}</Told>}
      {problem !== undefined && <Told kind="error">{problem}</Told>}
      <FindMembers taken={value} busy={false} onAdd={(uids) => onChange([...value, ...uids])} />
    </>
  );
}
