/* Holds a file as programs do that share it with nobody, until it is ended: hold.exe FILE */
#include <windows.h>
#include <stdio.h>

int wmain(int argc, wchar_t **argv) {
  HANDLE file = argc < 2 ? INVALID_HANDLE_VALUE : CreateFileW(argv[1], GENERIC_READ, FILE_SHARE_READ, NULL, OPEN_EXISTING, 0, NULL);
  if (file == INVALID_HANDLE_VALUE) return 1;
  puts("held");
  fflush(stdout);
  Sleep(INFINITE);
  return 0;
}
