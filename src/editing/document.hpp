// A text that is being edited, with places as editors count them.
//
// An editor counts lines from 0 and, within a line, code units: of UTF-8, UTF-16 or UTF-32, as was
// agreed. Places outside of the text mean its end, or that of their line. A value; belongs to one
// thread at a time. A change costs O(text), a place O(log lines + line).
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace orchard::editing {

enum class Units { utf8, utf16, utf32 };

struct Spot {
  std::uint32_t line = 0;
  std::uint32_t unit = 0;
  friend bool operator==(const Spot&, const Spot&) = default;
};

class Document {
 public:
  explicit Document(std::string text = {});

  const std::string& text() const { return text_; }
  std::uint32_t offset(Spot spot, Units units) const;
  Spot spot(std::uint32_t offset, Units units) const;
  std::uint32_t lines() const { return static_cast<std::uint32_t>(starts_.size()); }
  // Of a line, counted from 0, and of a character in it, both as messages count: from 1.
  std::uint32_t offset_of_character(int line, int column) const;

  // Writes `instead` in place of the bytes from `begin` to before `end`.
  void replace(std::uint32_t begin, std::uint32_t end, const std::string& instead);

 private:
  void find_lines();

  std::string text_;
  std::vector<std::uint32_t> starts_;  // of lines
};

}  // namespace orchard::editing
