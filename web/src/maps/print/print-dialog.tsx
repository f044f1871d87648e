export const PrintDialog = (_: {
  project: unknown;
  draft: unknown;
  plane: unknown;
  layers: unknown;
  rows: unknown;
  sight: unknown;
  onClose: () => void;
}) => null;
