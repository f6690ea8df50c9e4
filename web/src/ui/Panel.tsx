/** What is selected, beside the list it was selected in: the list stays visible while it is edited. */
import { Close } from '@mui/icons-material';
import { Box, Button, IconButton, Typography, useMediaQuery, useTheme } from '@mui/material';
import { useContext, useEffect, useRef, type ReactElement, type ReactNode, type SyntheticEvent } from 'react';
import * as common from 'texts/common.json';
import { SaidContext, useRefusal } from './access';
import { hasUnusable } from './fields/unusable';

interface PanelProps {
  title: string;
  onClose: () => void;
  onSubmit?: (event: SyntheticEvent) => void;
  width?: number;
  children: ReactNode;
}

export function Panel({ title, onClose, onSubmit, width = 380, children }: PanelProps): ReactElement {
  const root = useRef<HTMLFormElement>(null);
  const refusal = useRefusal();
  const isToRead = refusal !== null && onSubmit !== undefined;
  // On a phone it opens above the list, which may be scrolled far down.
  const isNarrow = useMediaQuery(useTheme().breakpoints.down('md'), { noSsr: true });
  useEffect(() => {
    if (isNarrow) root.current?.scrollIntoView();
  }, [isNarrow]);
  const submit = (event: SyntheticEvent): void => {
    event.preventDefault();
    // Enter in a field is no way around the button that is not there.
    if (refusal !== null) return;
    if (!hasUnusable(event.currentTarget)) onSubmit?.(event);
  };
  return (
    <Box
      component="form"
      ref={root}
      aria-label={title}
      noValidate
      onSubmit={submit}
      sx={{
        // On a phone what was opened stands above the list it was opened from.
        order: { xs: -1, md: 0 },
        width: { xs: '100%', md: width },
        flexShrink: 0,
        borderLeft: { md: 1 },
        borderBottom: { xs: 1, md: 0 },
        borderColor: { xs: 'divider', md: 'divider' },
        bgcolor: 'background.paper',
        display: 'flex',
        flexDirection: 'column',
        minHeight: 0,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', px: 2, pt: 1 }}>
        <Typography component="h2" noWrap variant="h2" sx={{ flex: 1 }}>
          {title}
        </Typography>
        <IconButton size="small" aria-label={common.close} onClick={onClose}>
          <Close fontSize="small" />
        </IconButton>
      </Box>
      <Box
        sx={{
          p: 2,
          pt: 1.5,
          display: 'flex',
          flexDirection: 'column',
          gap: 1.75,
          overflowY: 'auto',
          minHeight: 0,
        }}
      >
        <SaidContext value={isToRead}>
          {isToRead && <Told>{refusal}</Told>}
          {children}
        </SaidContext>
      </Box>
    </Box>
  );
}

interface ToldProps {
  kind?: 'error' | 'good' | 'plain';
  children: ReactNode;
}

/** A sentence about what was done or went wrong. */
export function Told({ kind = 'plain', children }: ToldProps): ReactElement {
  const colour = { error: 'error.main', good: 'primary.main', plain: 'text.secondary' }[kind];
  return (
    <Typography
      role={kind === 'error' ? 'alert' : 'status'}
      variant="body2"
      sx={{ color: colour, borderLeft: 3, borderColor: colour, pl: 1 }}
    >
      {children}
    </Typography>
  );
}

interface FormActionsProps {
  save: string;
  busy: boolean;
  disabled?: boolean;
  children?: ReactNode;
}

/** Save, or why one may not, and what else can be done, at the end of a form. */
export function FormActions({ save, busy, disabled = false, children }: FormActionsProps): ReactElement {
  const refusal = useRefusal();
  const isSaid = useContext(SaidContext);
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
      {refusal === null && (
        <Button type="submit" variant="contained" size="small" disabled={busy || disabled}>
          {save}
        </Button>
      )}
      {refusal !== null && !isSaid && <Told>{refusal}</Told>}
      {children}
    </Box>
  );
}

/** Names and values under each other. */
export function Details({ rows }: { rows: readonly (readonly [string, ReactNode])[] }): ReactElement {
  return (
    <Box
      component="dl"
      sx={{ m: 0, display: 'grid', gridTemplateColumns: 'auto 1fr', columnGap: 2, rowGap: 0.5 }}
    >
      {rows.map(([name, value]) => (
        <Box key={name} sx={{ display: 'contents' }}>
          <Typography component="dt" variant="caption" sx={{ color: 'text.secondary' }}>
            {name}
          </Typography>
          <Typography component="dd" variant="body2" sx={{ m: 0 }}>
            {value}
          </Typography>
        </Box>
      ))}
    </Box>
  );
}
