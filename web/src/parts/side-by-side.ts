/**
 * Columns side by side, as high as the page. On a narrow screen they stand one below the other, each no higher than most of it, so that
 * long lists in them scroll on their own (WCAG 2.2, 1.4.10). @param wide the columns as CSS has them
 */
export const sideBySide = (wide: string) =>
  ({
    display: 'grid',
    gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: wide },
    gridAutoRows: { xs: 'fit-content(75vh)', md: 'auto' },
    height: { xs: 'auto', md: '100%' },
  }) as const;

/** Around a table: its columns stay columns on a narrow screen, where it goes sideways by itself. @param least its width there, in pixels */
export const tableRoom = (least: number) =>
  ({ overflowX: { xs: 'auto', md: 'visible' }, '& > *': { minWidth: { xs: least, md: 0 } } }) as const;
