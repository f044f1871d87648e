/* ProcessPrng, which this Wine's system32 lacks: random bytes by the older function of advapi32 that it has. */
#include <windows.h>

BOOLEAN NTAPI SystemFunction036(PVOID buffer, ULONG bytes);

__declspec(dllexport) BOOL WINAPI ProcessPrng(PBYTE buffer, SIZE_T bytes) { return SystemFunction036(buffer, (ULONG)bytes); }
