// ProcessPrng is what Go asks the system for random bytes with, and Debian 12's Wine does not have. SystemFunction036 is the older name of the
// same, by Microsoft's documentation of RtlGenRandom.
#include <windows.h>

BOOLEAN NTAPI SystemFunction036(PVOID, ULONG);

__declspec(dllexport) BOOL WINAPI ProcessPrng(PBYTE data, SIZE_T size) {
  while (size > 0) {
    ULONG some = size > 0x10000000 ? 0x10000000 : (ULONG)size;
    if (!SystemFunction036(data, some)) return FALSE;
    data += some;
    size -= some;
  }
  return TRUE;
}
