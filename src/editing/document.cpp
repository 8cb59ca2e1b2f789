#include "editing/document.hpp"

#include <algorithm>
#include <string_view>

#include "base/utf8.hpp"

namespace orchard::editing {

namespace {

std::uint32_t units_of(const Character& character, Units units) {
  if (units == Units::utf8) return character.bytes;
  return units == Units::utf16 && character.valid && character.code > 0xFFFF ? 2 : 1;
}

}  // namespace

Document::Document(std::string text) : text_(std::move(text)) {
  find_lines();
}

void Document::find_lines() {
  starts_.assign(1, 0);
  for (std::size_t at = text_.find('\n'); at != std::string::npos; at = text_.find('\n', at + 1)) {
    starts_.push_back(static_cast<std::uint32_t>(at + 1));
  }
}

std::uint32_t Document::offset(Spot spot, Units units) const {
  if (spot.line >= starts_.size()) return static_cast<std::uint32_t>(text_.size());
  std::uint32_t at = starts_[spot.line];
  for (std::uint32_t passed = 0; passed < spot.unit && at < text_.size() && text_[at] != '\n';) {
    const Character character = first_character(std::string_view(text_).substr(at));
    passed += units_of(character, units);
    at += character.bytes;
  }
  return at;
}

Spot Document::spot(std::uint32_t offset, Units units) const {
  offset = std::min(offset, static_cast<std::uint32_t>(text_.size()));
  const auto line = std::ranges::upper_bound(starts_, offset) - starts_.begin() - 1;
  Spot result{static_cast<std::uint32_t>(line), 0};
  for (std::uint32_t at = starts_[static_cast<std::size_t>(line)]; at < offset;) {
    const Character character = first_character(std::string_view(text_).substr(at));
    result.unit += units_of(character, units);
    at += character.bytes;
  }
  return result;
}

std::uint32_t Document::offset_of_character(int line, int column) const {
  if (line < 1) return 0;
  return offset(
      {static_cast<std::uint32_t>(line - 1), static_cast<std::uint32_t>(std::max(column, 1) - 1)},
      Units::utf32);
}

void Document::replace(std::uint32_t begin, std::uint32_t end, const std::string& instead) {
  text_.replace(begin, std::max(begin, end) - begin, instead);
  find_lines();
}

}  // namespace orchard::editing
