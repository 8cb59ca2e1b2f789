#include "picture/inferred/glyphs.hpp"

#include <algorithm>
#include <optional>
#include <set>

#include "syntax/characters.hpp"
#include "syntax/names.hpp"

namespace orchard {
namespace {

constexpr std::size_t most_letters = 3;

std::string first_letters(std::string_view name, std::size_t count) {
  std::size_t bytes = 0;
  for (; count > 0 && bytes < name.size(); --count) {
    bytes += first_character(name.substr(bytes)).bytes;
  }
  std::string result(name.substr(0, bytes));
  if (!result.empty() && result[0] >= 'a' && result[0] <= 'z') {
    result[0] = static_cast<char>(result[0] - 'a' + 'A');
  }
  return result;
}

// The names in a content from the left; the fluent's own name if there is nothing else.
std::vector<std::string> names_in(const GameCore& core, const BoardLayout& board,
                                  const Content& content) {
  std::vector<std::string> names;
  for (const TermId id : content.terms) {
    for (const Term::Symbol& symbol : core.terms().term(id).symbols()) names.push_back(symbol.name);
  }
  if (names.empty()) names.push_back(core.terms().name(board.sources[content.source].name));
  return names;
}

std::vector<std::string> words_of(std::string_view name) {
  std::vector<std::string> words;
  while (true) {
    const std::size_t end = name.find('_');
    words.emplace_back(name.substr(0, end));
    if (end == std::string_view::npos) return words;
    name.remove_prefix(end + 1);
  }
}

// Of a name of several words, a letter of each, where that tells it from all others: "Hw".
std::optional<std::string> sign_of_words(const std::string& name,
                                         const std::set<std::string>& names) {
  const auto initials = [](const std::string& of) {
    std::string result;
    for (const std::string& word : words_of(of)) {
      if (word.empty()) return std::string();
      const std::string letter = first_letters(word, 1);
      result += result.empty() ? letter : word.substr(0, letter.size());
    }
    return result;
  };
  const std::string candidate = initials(name);
  if (candidate.empty() || words_of(name).size() == 1 || words_of(name).size() > most_letters) {
    return std::nullopt;
  }
  const bool unique = std::ranges::none_of(names, [&](const std::string& other) {
    return other != name && initials(other) == candidate;
  });
  return unique ? std::optional(candidate) : std::nullopt;
}

// The first letter and the first later one that tells a name from the others: "Se" and "Sa" of
// sheep and shears.
std::optional<std::string> two_letters(const std::string& name,
                                       const std::set<std::string>& names) {
  const auto letters = [](const std::string& of, std::size_t later) {
    const std::string all = first_letters(of, later + 1);
    const std::string before = first_letters(of, later);
    return all == before ? std::string() : first_letters(of, 1) + all.substr(before.size());
  };
  for (std::size_t later = 1;; ++later) {
    const std::string candidate = letters(name, later);
    if (candidate.empty()) return std::nullopt;
    const bool unique = std::ranges::none_of(names, [&](const std::string& other) {
      return other != name &&
             (letters(other, later) == candidate || letters(other, 1) == candidate);
    });
    if (unique) return candidate;
  }
}

std::string sign(const std::string& name, const std::set<std::string>& names) {
  if (integer_value(name)) return name;
  for (std::size_t letters = 1; letters <= most_letters; ++letters) {
    const std::string candidate = first_letters(name, letters);
    const bool unique = std::ranges::none_of(names, [&](const std::string& other) {
      return other != name && first_letters(other, letters) == candidate;
    });
    if (unique) return candidate;
    if (letters > 1) continue;
    if (auto words = sign_of_words(name, names)) return *words;
  }
  return two_letters(name, names).value_or(first_letters(name, most_letters));
}

}  // namespace

std::size_t character_count(std::string_view text) {
  return static_cast<std::size_t>(syntax::count_characters(text));
}

std::map<Content, Glyph> choose_glyphs(const GameCore& core, const BoardLayout& board,
                                       const std::vector<Content>& contents) {
  std::set<std::string> names;
  for (const Content& content : contents) {
    for (const std::string& name : names_in(core, board, content)) names.insert(name);
  }
  std::map<Content, Glyph> result;
  for (const Content& content : contents) {
    Glyph glyph;
    for (const std::string& name : names_in(core, board, content)) {
      glyph.text += sign(name, names);
      for (const Role& role : core.roles()) {
        if (role.name() == name || words_of(name).front() == role.name()) glyph.role = role.index();
      }
    }
    for (const TermId id : content.terms) {
      glyph.label += (glyph.label.empty() ? "" : " ") + core.terms().text(id);
    }
    if (glyph.label.empty()) glyph.label = names_in(core, board, content).front();
    for (const Role& role : core.roles()) {
      const bool owns = board.owner && core.terms().text(*board.owner) == role.name();
      if (owns && !glyph.role) glyph.role = role.index();
    }
    result.emplace(content, std::move(glyph));
  }
  return result;
}

}  // namespace orchard
