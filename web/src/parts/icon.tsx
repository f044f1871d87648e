import { SvgIcon, type SvgIconProps } from '@mui/material';

/** An icon of @mdi/js by its path. */
export const Icon = ({ path, ...props }: { path: string } & SvgIconProps) => (
  <SvgIcon fontSize="small" {...props}>
    <path d={path} />
  </SvgIcon>
);
