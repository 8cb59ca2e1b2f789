// The files of a description: its rules and, beside it, cases, claims and drawing rules.
//
// Only these are read and written, whatever a page asks for. A file is written whole, and never
// over what somebody else wrote since it was read: whoever saves says what was read (`stamp`, a
// digest of the contents). What is typed and not saved yet is kept in a file beside the
// description. Any thread may call.
#pragma once

#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "orchard/result.hpp"

namespace orchard::desk {

struct Paper {
  std::string kind;  // "rules", "cases", "claims", "drawing"
  std::string path;
  std::string text;   // empty if there is no such file
  std::string stamp;  // of the text; "none" if there is no such file
};

class Papers {
 public:
  // `path`: of the description; it need not be there yet.
  explicit Papers(std::string path);

  const std::string& path() const { return path_; }
  std::vector<Paper> all() const;
  // None if there is no such kind.
  std::optional<Paper> read(const std::string& kind) const;
  // Writes a file if it still is what was read; gives what is there now: with the same text as
  // given if it was written. Fails with `cannot-write`, and with `no-paper`.
  Result<Paper> save(const std::string& kind, const std::string& text, const std::string& stamp);

  // What was typed and not saved; empty if there is nothing.
  std::string kept() const;
  // Keeps it; with an empty text nothing is kept any more.
  void keep(const std::string& text);

 private:
  std::optional<std::string> path_of(const std::string& kind) const;

  std::string path_;
  mutable std::mutex mutex_;
};

}  // namespace orchard::desk
