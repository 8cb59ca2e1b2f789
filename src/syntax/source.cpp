#include "syntax/source.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

#include "syntax/characters.hpp"

namespace orchard::syntax {
namespace {

constexpr int excerpt_width = 140;  // characters of a source line shown around the caret
constexpr int excerpt_before = 60;  // of these, before the caret, when the line is cut

Diagnostic unreadable(const std::string& path, const std::string& why, const std::string& remedy) {
  Diagnostic diagnostic = plain_error("cannot-read", why, remedy);
  diagnostic.place.file = path;
  return diagnostic;
}

}  // namespace

Source::Source(std::string name, std::string text) {
  std::vector<std::uint32_t> line_starts{0};
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '\n') line_starts.push_back(static_cast<std::uint32_t>(i + 1));
  }
  constexpr std::uint32_t apart = 1024;
  std::vector<Mark> marks;
  for (std::size_t line = 0; line < line_starts.size(); ++line) {
    const auto end = static_cast<std::uint32_t>(
        line + 1 < line_starts.size() ? line_starts[line + 1] - 1 : text.size());
    Mark at{line_starts[line], 0};
    for (std::uint32_t next = at.offset + apart; next < end; next = at.offset + apart) {
      for (; at.offset < next; ++at.before) {
        at.offset += first_character(std::string_view(text).substr(at.offset)).bytes;
      }
      marks.push_back(at);
    }
  }
  content_ = std::make_shared<const Content>(
      Content{std::move(name), std::move(text), std::move(line_starts), std::move(marks)});
}

Result<Source> Source::from_file(const std::string& path, const Limits& limits) {
  std::error_code error;
  const auto status = std::filesystem::status(path, error);
  if (status.type() == std::filesystem::file_type::not_found) {
    return unreadable(path, "there is no such file", "check the name and the folder");
  }
  if (status.type() == std::filesystem::file_type::directory) {
    return unreadable(path, "this is a folder, not a file", "name a file in it");
  }
  std::ifstream stream(path, std::ios::binary);
  if (!stream) {
    return unreadable(path, fmt::format("cannot open the file: {}", std::strerror(errno)),
                      "check that you may read it");
  }
  // Piece by piece: memory for the largest file there may be would cost more than most files.
  constexpr std::size_t piece = 1u << 16;
  std::string text;
  while (stream && text.size() <= limits.file_bytes) {
    const std::size_t before = text.size();
    text.resize(before + piece);
    stream.read(text.data() + before, piece);
    text.resize(before + static_cast<std::size_t>(stream.gcount()));
  }
  if (stream.bad()) return unreadable(path, "the file cannot be read to its end", {});
  if (text.size() > limits.file_bytes) {
    return unreadable(path, fmt::format("the file is larger than {} bytes", limits.file_bytes),
                      "split it, or generate fewer facts");
  }
  if (text.find('\0') != std::string::npos) {
    return unreadable(path, "this is not a text file: it contains zero bytes",
                      "name a text file, saved as UTF-8");
  }
  text.shrink_to_fit();
  return Source(path, std::move(text));
}

std::uint32_t Source::line_of(std::uint32_t offset) const {
  const std::vector<std::uint32_t>& starts = content_->line_starts;
  const auto after = std::upper_bound(starts.begin(), starts.end(), offset);
  return static_cast<std::uint32_t>(after - starts.begin()) - 1;
}

template <class Fits>
Source::Mark Source::mark_before(std::uint32_t line, Fits&& fits) const {
  const std::uint32_t start = content_->line_starts[line];
  const auto first = std::ranges::lower_bound(content_->marks, start, {}, &Mark::offset);
  const auto last = std::partition_point(first, content_->marks.end(), [&](const Mark& mark) {
    return line_of(mark.offset) == line && fits(mark);
  });
  return last == first ? Mark{start, 0} : *std::prev(last);
}

int Source::column_of(std::uint32_t offset) const {
  const Mark mark =
      mark_before(line_of(offset), [&](const Mark& one) { return one.offset <= offset; });
  return 1 + static_cast<int>(mark.before) +
         count_characters(text().substr(mark.offset, offset - mark.offset));
}

// Of the character in a column that the line has.
std::uint32_t Source::offset_of(std::uint32_t line, int column) const {
  const auto before = static_cast<std::uint32_t>(column - 1);
  Mark mark = mark_before(line, [&](const Mark& one) { return one.before <= before; });
  for (; mark.before < before; ++mark.before) {
    mark.offset += first_character(text().substr(mark.offset)).bytes;
  }
  return mark.offset;
}

Place Source::place(std::uint32_t begin, std::uint32_t end) const {
  const std::uint32_t line = line_of(begin);
  const std::uint32_t start = content_->line_starts[line];
  std::string_view whole = text().substr(start);
  if (line + 1 < content_->line_starts.size()) {
    whole = whole.substr(0, content_->line_starts[line + 1] - 1 - start);
  }
  if (whole.ends_with('\r')) whole.remove_suffix(1);
  const auto line_end = static_cast<std::uint32_t>(start + whole.size());
  begin = std::min(begin, line_end);
  end = std::clamp(end, begin, line_end);

  Place place;
  place.file = name();
  place.line = static_cast<int>(line + 1);
  place.column = column_of(begin);
  place.width = std::max(1, count_characters(text().substr(begin, end - begin)));
  const int first = place.column > excerpt_width - 20 ? place.column - excerpt_before : 1;
  place.source_line =
      printable_excerpt(whole.substr(offset_of(line, first) - start), 0, excerpt_width);
  place.excerpt_column = place.column - first + 1;
  place.width = std::max(1, std::min(place.width, excerpt_width - place.excerpt_column + 1));
  return place;
}

}  // namespace orchard::syntax
