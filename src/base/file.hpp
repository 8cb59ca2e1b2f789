// Files written whole: either the new contents are there, or the old ones are untouched.
#pragma once

#include <cstdio>
#include <memory>
#include <string>
#include <string_view>

#include "orchard/diagnostic.hpp"

namespace orchard {

// Writes beside a file, and puts what was written in its place when it is finished: on disk before
// the old contents go, whatever happens in between. Not finished, it leaves nothing behind.
class WholeFile {
 public:
  explicit WholeFile(const std::string& path);
  ~WholeFile();
  WholeFile(const WholeFile&) = delete;

  void write(const void* bytes, std::size_t size);
  // Empty if all of it is on disk; else `cannot-write` with the reason.
  Diagnostics finish();

 private:
  std::string path_;
  std::string beside_;
  std::unique_ptr<std::FILE, int (*)(std::FILE*)> file_;
  std::string reason_;  // why it cannot be written, once that is known
};

// The same for contents that are there already.
Diagnostics write_whole_file(const std::string& path, std::string_view contents);

// A digest of the contents of a file, 32 hexadecimal digits; empty if it cannot be read.
std::string digest_of_file(const std::string& path);

}  // namespace orchard
