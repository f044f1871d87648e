export const DigitisePanel = (_: {
  project: unknown;
  plane: unknown;
  scene: unknown;
  target: unknown;
  onMade: (id: string) => void;
  onClose: () => void;
}) => null;
