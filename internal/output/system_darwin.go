// What macOS promises was read and not tried, in its manual pages:
//
//   - rename(2): RENAME_SWAP exchanges two names in one step, of folders and files alike, and gives ENOTSUP where the volume cannot, as those of
//     other systems cannot; ENOENT if one of them is not there. HFS+ and APFS can.
//   - flock(2): a lock is that of an open file or folder, ends with the process however it ends, and gives EWOULDBLOCK if another has it;
//     volumes of servers may give ENOTSUP, and nothing is locked then, nor taken for a dead run's.
//   - fcntl(2): F_FULLFSYNC brings a file to the disk itself, which fsync(2) does not; Go's File.Sync asks for it, and for fsync where a volume
//     has none of it.
//   - Names differ by their letters' case on some volumes only. HFS+ writes accents as marks of their own (é as e and ´), APFS keeps what
//     it is given, and both find either.

package output

import "golang.org/x/sys/unix"

// foldsNames tells that names which differ in case, or in how an accent is written, are one file's, as it is unless a disk was formatted to
// tell them apart.
var foldsNames = true

// exchange gives two files or folders each other's name in one step.
var exchange = func(a, b string) error { return unix.RenamexNp(a, b, unix.RENAME_SWAP) }
