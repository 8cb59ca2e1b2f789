// What a long exploration keeps on disk, so that it can go on after a kill: named arrays of
// numbers.
//
// One file a folder and kind of exploration, written whole beside the old one and then renamed, so
// that a kill at any moment leaves the one or the other. The file says what it belongs to and ends
// with a checksum of all before it. Layout: a line of text, then for each array the length of its
// name, the name, the number of bytes, the bytes; lengths as 64-bit numbers of this machine.
#pragma once

#include <xxhash.h>

#include <cstdint>
#include <cstdio>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "base/file.hpp"
#include "orchard/result.hpp"

namespace orchard {

class StateWriter {
 public:
  // `belongs_to`: one line that says what the state is of. The folder is made if it is not there.
  StateWriter(const std::string& folder, const std::string& kind, const std::string& belongs_to);
  StateWriter(const std::string& file, const std::string& belongs_to);

  template <class T>
  void put(const std::string& name, std::span<const T> array) {
    static_assert(std::is_trivially_copyable_v<T>);
    put_bytes(name, array.data(), array.size_bytes());
  }
  template <class T>
  void put(const std::string& name, const std::vector<T>& array) {
    put(name, std::span<const T>(array));
  }
  // Empty if all of it is on disk; else `cannot-write` with the reason.
  Diagnostics finish();

 private:
  void put_bytes(const std::string& name, const void* bytes, std::size_t size);
  void write(const void* bytes, std::size_t size);

  WholeFile file_;
  std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> sum_;
};

class StateReader {
 public:
  // Null if there is none yet. Fails with `other-state` if it belongs to something else, and with
  // `damaged-state` if it is not as it was written.
  // Whether there is something to open, whatever it belongs to.
  static bool is_there(const std::string& folder, const std::string& kind);
  static Result<std::unique_ptr<StateReader>> open(const std::string& folder,
                                                   const std::string& kind,
                                                   const std::string& belongs_to);
  static Result<std::unique_ptr<StateReader>> open(const std::string& file,
                                                   const std::string& belongs_to);
  template <class T>
  std::vector<T> get(const std::string& name) {
    const auto found = arrays_.find(name);
    if (found == arrays_.end()) return {};
    std::vector<T> result(found->second.size / sizeof(T));
    read(found->second.at, result.data(), result.size() * sizeof(T));
    return result;
  }

 private:
  struct Array {
    long at = 0;
    std::size_t size = 0;
  };
  explicit StateReader(std::FILE* file) : file_(file, std::fclose) {}
  void read(long at, void* bytes, std::size_t size);

  std::unique_ptr<std::FILE, int (*)(std::FILE*)> file_;
  std::map<std::string, Array> arrays_;
};

}  // namespace orchard
