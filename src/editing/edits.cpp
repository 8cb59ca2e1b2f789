#include "editing/edits.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "rules/keywords.hpp"
#include "syntax/characters.hpp"

namespace orchard::editing {

namespace {

// As it is written in the syntax of a text: Row for ?row.
std::string spelt(const Names& text, const std::string& name) {
  if (!text.is_infix() || !name.starts_with('?')) return name;
  std::string result = name.substr(1);
  if (!result.empty() && syntax::is_small_letter(result[0])) {
    result[0] = static_cast<char>(result[0] - 'a' + 'A');
  }
  return result;
}

std::optional<Fix> correction_of(const Names& text, const Diagnostic& diagnostic,
                                 std::uint32_t at) {
  if (!diagnostic.correction) return std::nullopt;
  const auto& names = text.all();
  auto name = std::ranges::lower_bound(names, at, {}, &Name::begin);
  while (name != names.end() && name->name != diagnostic.correction->written) ++name;
  constexpr std::uint32_t far = 2000;  // bytes; the underlined form may go on for some lines
  if (name == names.end() || name->begin > at + far) return std::nullopt;
  const std::string instead = spelt(text, diagnostic.correction->instead);
  const std::string written = spelt(text, name->name);
  return Fix{fmt::format("write {} instead of {}", instead, written),
             {name->begin, name->end, instead},
             true};
}

// A comment above the form says that it is meant.
std::optional<Fix> silence_of(const Names& text, const Diagnostic& diagnostic, std::uint32_t at) {
  if (diagnostic.severity == Severity::error) return std::nullopt;
  for (std::uint32_t form = 0; form < text.forms(); ++form) {
    const auto [begin, end] = text.form(form);
    if (at < begin || at >= end) continue;
    const std::string mark = text.is_infix() ? "%" : ";";
    return Fix{fmt::format("this is meant: allow {} in this description", diagnostic.code),
               {begin, begin, fmt::format("{} orchard: allow {}\n", mark, diagnostic.code)},
               false};
  }
  return std::nullopt;
}

}  // namespace

std::vector<Fix> fixes_of(const Names& text, const Diagnostic& diagnostic) {
  std::vector<Fix> result;
  if (diagnostic.place.line < 1 || diagnostic.place.file != text.source().name()) return result;
  const Document document{std::string(text.source().text())};
  const std::uint32_t at =
      document.offset_of_character(diagnostic.place.line, diagnostic.place.column);
  if (auto fix = correction_of(text, diagnostic, at)) result.push_back(std::move(*fix));
  if (text.paper() == Paper::rules) {
    if (auto fix = silence_of(text, diagnostic, at)) result.push_back(std::move(*fix));
  }
  return result;
}

std::optional<std::string> fault_in_renaming(const Names& rules, const Name& name,
                                             const std::string& instead) {
  if (name.sort == Sort::keyword || name.sort == Sort::directive || name.sort == Sort::word) {
    return fmt::format("{} is a word of the language", name.name);
  }
  if (name.sort == Sort::text) return "a text has no other name";
  const auto is_number = [](const std::string& text) {
    return !text.empty() && std::ranges::all_of(text, [](char c) { return syntax::is_digit(c); });
  };
  if (is_number(name.name)) return "a number stays what it is";
  const bool is_variable = name.sort == Sort::variable;
  const std::string_view bare =
      std::string_view(instead).substr(is_variable && instead.starts_with('?') ? 1 : 0);
  const bool is_plain = !bare.empty() && std::ranges::all_of(bare, [&](char c) {
    return syntax::is_small_letter(c) || syntax::is_digit(c) || c == '_' ||
           (c == '-' && !rules.is_infix());
  });
  if (!is_plain || (is_variable && !instead.starts_with('?'))) {
    return is_variable ? "a variable is written ?name, with small letters, digits and _"
                       : "a name has small letters, digits, _ and -";
  }
  if (!is_variable && is_number(instead)) return "a name that is a number means that number";
  if (rules::find_keyword(instead) != nullptr || rules::is_connective(instead) ||
      instead == "random") {
    return fmt::format("{} is a word of the language", instead);
  }
  // With another number of arguments, too: one name for both would be a riddle.
  Name renamed = name;
  renamed.name = instead;
  const bool taken = std::ranges::any_of(rules.all(), [&](const Name& other) {
    renamed.arity = other.arity;
    return same_thing(other, renamed);
  });
  if (taken) return fmt::format("{} is something else here already", instead);
  return std::nullopt;
}

std::vector<Edit> renamed(const Names& text, const Name& name, const std::string& instead) {
  std::vector<Edit> result;
  for (const Name& one : text.all()) {
    if (same_thing(one, name)) result.push_back({one.begin, one.end, spelt(text, instead)});
  }
  return result;
}

std::string edited(std::string text, std::vector<Edit> edits) {
  std::ranges::sort(edits, std::greater(), &Edit::begin);
  for (const Edit& edit : edits) text.replace(edit.begin, edit.end - edit.begin, edit.instead);
  return text;
}

}  // namespace orchard::editing
