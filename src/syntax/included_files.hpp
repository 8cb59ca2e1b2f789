// Which files a text may include: those of its folder and below, once on each way, and not without
// end.
//
// Belongs to one expansion; reads files when asked.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "syntax/source.hpp"

namespace orchard::syntax {

class IncludedFiles {
 public:
  // The file whose text is being read, innermost; a name that is no file for a text from memory.
  void enter(const std::string& name);
  void leave() { open_.pop_back(); }

  // The text of a file that the innermost one includes. Fails with `cannot-include`, without a
  // place.
  Result<Source> read(std::string_view written, const Limits& limits);
  // Whether so many were included that nothing more should be read.
  bool too_many() const { return count_ > most_files; }

 private:
  static constexpr std::size_t deepest = 64;        // files within files
  static constexpr std::size_t most_files = 2'000;  // in all

  struct Open {
    std::string name;            // as it was given
    std::filesystem::path path;  // what it leads to
  };
  std::vector<Open> open_;
  std::size_t count_ = 0;
};

}  // namespace orchard::syntax
