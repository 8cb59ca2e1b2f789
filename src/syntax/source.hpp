// A text and where its lines are.
//
// A handle: copies share the text, which is immutable, so that views into it stay good as long as
// any copy lives and any thread may ask for places. A place costs O(log lines + what it covers),
// however long the line is: a description may stand on one.
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/diagnostic.hpp"
#include "orchard/result.hpp"

namespace orchard::syntax {

struct Limits {
  std::size_t file_bytes = 16u << 20;
  std::size_t nesting = 10'000;
  std::size_t symbols = 1'000'000;  // different ones in a text
  std::size_t forms = 1'000'000;    // rounds of the loops of directives
};

class Source {
 public:
  // `name` is what diagnostics call the text, empty for a text that is no file.
  Source(std::string name, std::string text);

  // Reads a whole file: error `cannot-read` if it is missing, a folder or too large.
  static Result<Source> from_file(const std::string& path, const Limits& limits = {});

  const std::string& name() const { return content_->name; }
  std::string_view text() const { return content_->text; }

  // The place of the bytes `begin` … `end`-1; a stretch over several lines is cut at the first.
  Place place(std::uint32_t begin, std::uint32_t end) const;
  // The column, counted from 1, of a byte within its line.
  int column_of(std::uint32_t offset) const;

 private:
  // A character of a long line, and how many stand before it there.
  struct Mark {
    std::uint32_t offset = 0;
    std::uint32_t before = 0;
  };
  struct Content {
    std::string name;
    std::string text;
    std::vector<std::uint32_t> line_starts;
    std::vector<Mark> marks;  // ascending
  };

  std::uint32_t line_of(std::uint32_t offset) const;
  // The last mark of a line that `fits`, which holds for its first ones; else its start.
  template <class Fits>
  Mark mark_before(std::uint32_t line, Fits&& fits) const;
  std::uint32_t offset_of(std::uint32_t line, int column) const;

  std::shared_ptr<const Content> content_;
};

}  // namespace orchard::syntax
