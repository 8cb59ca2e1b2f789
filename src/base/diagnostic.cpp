#include "orchard/diagnostic.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <tuple>

#include "base/utf8.hpp"

namespace orchard {

std::string_view name_of(Severity severity) {
  switch (severity) {
    case Severity::error:
      return "error";
    case Severity::suspicious:
      return "suspicious";
    case Severity::hint:
      return "hint";
  }
  return "unknown";
}

namespace {

std::string prefix(const Place& place) {
  if (place.file.empty()) return {};
  const std::string file = safe_for_terminal(place.file);
  if (place.line == 0) return file + ": ";
  return fmt::format("{}:{}:{}: ", file, place.line, place.column);
}

// The source line and, under it, a caret with an underline over the stretch meant. Tabs before
// the caret are repeated, so that it stands right however wide the terminal shows them.
std::string excerpt(const Place& place) {
  if (place.line == 0) return {};
  std::string under;
  int column = 1;
  for (char byte : place.source_line) {
    if (column >= place.excerpt_column) break;
    const bool continues = (static_cast<unsigned char>(byte) & 0xC0) == 0x80;
    if (continues) continue;
    under += byte == '\t' ? '\t' : ' ';
    ++column;
  }
  under += '^';
  under.append(static_cast<std::size_t>(std::max(0, place.width - 1)), '~');
  return fmt::format("   {}\n   {}\n", place.source_line, under);
}

}  // namespace

std::string render(const Diagnostic& diagnostic) {
  std::string text = fmt::format("{}{}: {} [{}]\n", prefix(diagnostic.place),
                                 name_of(diagnostic.severity), diagnostic.message, diagnostic.code);
  text += excerpt(diagnostic.place);
  for (const Note& note : diagnostic.notes) {
    text += fmt::format("   {}{}\n", prefix(note.place), note.message);
    text += excerpt(note.place);
  }
  if (!diagnostic.remedy.empty()) text += fmt::format("   remedy: {}\n", diagnostic.remedy);
  return text;
}

void Diagnostics::count(Severity severity) {
  if (severity == Severity::error) ++errors_;
  ++left_out_;
}

void Diagnostics::add(Diagnostic diagnostic) {
  if (full()) return count(diagnostic.severity);
  if (diagnostic.severity == Severity::error) ++errors_;
  items_.push_back(std::move(diagnostic));
}

void Diagnostics::append(const Diagnostics& others) {
  const std::size_t errors = errors_ + others.errors_;  // of the left-out ones too
  for (const Diagnostic& other : others.items_) add(other);
  left_out_ += others.left_out_;
  errors_ = errors;
}

bool Diagnostics::only_limits() const {
  return !items_.empty() && left_out_ == 0 && std::ranges::all_of(items_, &Diagnostic::is_limit);
}

void Diagnostics::sort_by_place() {
  std::stable_sort(items_.begin(), items_.end(), [](const Diagnostic& a, const Diagnostic& b) {
    return std::tie(a.place.file, a.place.line, a.place.column) <
           std::tie(b.place.file, b.place.line, b.place.column);
  });
}

std::string Diagnostics::render() const {
  std::string text;
  for (const Diagnostic& item : items_) text += orchard::render(item);
  if (left_out_ > 0) text += fmt::format("… and {} more\n", left_out_);
  return text;
}

Remedy Remedy::name_meant(std::string_view written, std::string_view meant) {
  Remedy remedy("did you mean `" + std::string(meant) + "`?");
  remedy.correction = Correction{std::string(written), std::string(meant)};
  return remedy;
}

Diagnostic plain_error(std::string code, std::string message, Remedy remedy) {
  Diagnostic diagnostic;
  diagnostic.code = std::move(code);
  diagnostic.message = std::move(message);
  diagnostic.remedy = std::move(remedy.text);
  diagnostic.correction = std::move(remedy.correction);
  return diagnostic;
}

}  // namespace orchard
