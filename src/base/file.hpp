// Files written whole: either the new contents are there, or the old ones are untouched.
#pragma once

#include <cstdio>
#include <memory>
#include <string>
#include <string_view>

#include "orchard/diagnostic.hpp"
#include "orchard/result.hpp"

namespace orchard {

// Writes beside a file, and puts what was written in its place when it is finished: on disk before
// the old contents go, whatever happens in between. Not finished, it leaves nothing behind.
//
// Symbolic links are followed; a file that is there keeps its mode. What is no regular file (a
// device, a pipe) is written to as it is, and a file of several names in its place, once all of the
// contents are known to be there.
class WholeFile {
 public:
  explicit WholeFile(const std::string& path);
  ~WholeFile();
  WholeFile(const WholeFile&) = delete;

  void write(const void* bytes, std::size_t size);
  // Empty if all of it is on disk; else `cannot-write` with the reason.
  Diagnostics finish();

 private:
  enum class Way { replace, through, copy };  // `through`: to what is no regular file
  void open_beside();
  void put_in_place();
  void copy_over();
  void note_error();

  std::string path_;    // as it was given
  std::string target_;  // what it leads to
  std::string beside_;  // empty while what is written has no name
  Way way_ = Way::replace;
  unsigned mode_ = 0666;  // less the mask of the process for a new file
  std::unique_ptr<std::FILE, int (*)(std::FILE*)> file_;
  std::string reason_;  // why it cannot be written, once that is known
};

// The same for contents that are there already.
Diagnostics write_whole_file(const std::string& path, std::string_view contents);

// Why a file could not be written, as far as can be told before it is tried; empty if nothing
// speaks against it. Changes nothing.
Diagnostics check_writable(const std::string& path);

// Keeps other processes from a file while they ask for the same, by a file beside it. Ends with the
// process at the latest.
class FileLock {
 public:
  // Fails with `in-use` where another process holds it for two seconds (one that was killed may not
  // have gone yet), or with `cannot-write`. `remedy`: what to do in the first case.
  static Result<FileLock> take(const std::string& path, std::string remedy);
  ~FileLock();
  FileLock(FileLock&& other) noexcept;
  FileLock& operator=(FileLock&&) = delete;

 private:
  FileLock(std::string path, int file) : path_(std::move(path)), file_(file) {}
  std::string path_;
  int file_;
};

// A digest of the contents of a file, 32 hexadecimal digits; empty if it cannot be read.
std::string digest_of_file(const std::string& path);

}  // namespace orchard
