export const FIND_WORDS = 'Find data, a page, or what to do ( / )';
export const FIND_LOOK = {
  width: 320,
  '& .MuiOutlinedInput-root': { bgcolor: 'rgba(255,255,255,0.1)', color: 'var(--top-text)', height: 34, py: '0 !important' },
  '& input::placeholder': { color: 'var(--top-text)', opacity: 0.75 },
  '& fieldset': { borderColor: 'transparent' },
} as const;
