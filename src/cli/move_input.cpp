#include "cli/move_input.hpp"

#include <charconv>

namespace orchard::cli {
namespace {

// The text without its outer parentheses.
std::string_view bare(std::string_view text) {
  if (text.size() >= 2 && text.front() == '(' && text.back() == ')') {
    return text.substr(1, text.size() - 2);
  }
  return text;
}

// Whether a text begins with these words, the last of them whole: "sit 1" begins "sit 1 4", but
// not "sit 19".
bool begins_with(std::string_view text, std::string_view words) {
  if (!text.starts_with(words)) return false;
  constexpr std::string_view between = " ()";
  return text.size() == words.size() || between.find(text[words.size()]) != between.npos ||
         words.back() == '(';
}

}  // namespace

std::string tidied(std::string_view line) {
  std::string text;
  for (char c : line) {
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    const bool space = c == ' ' || c == '\t' || c == '\r' || c == '\n';
    if (space && (text.empty() || text.back() == ' ' || text.back() == '(')) continue;
    if (c == ')' && !text.empty() && text.back() == ' ') text.pop_back();
    text += space ? ' ' : c;
  }
  if (!text.empty() && text.back() == ' ') text.pop_back();
  return text;
}

std::optional<Move> whole_move(std::string_view line, const std::vector<Move>& legal) {
  for (const Move& move : legal) {
    const std::string text = move.to_string();
    if (text == line || bare(text) == line) return move;
  }
  return std::nullopt;
}

TypedMove typed_move(std::string_view line, const std::vector<Move>& legal,
                     std::size_t first_number) {
  if (auto move = whole_move(line, legal)) return {move, {}};
  TypedMove result;
  std::size_t number = 0;
  const bool says_so = line.starts_with('#');
  const std::string_view digits = says_so ? line.substr(1) : line;
  const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), number);
  const bool is_number = error == std::errc{} && end == digits.data() + digits.size();
  result.by_number = is_number && !says_so;
  if (is_number && number >= first_number && number < first_number + legal.size()) {
    result.move = legal[number - first_number];
    return result;
  }
  for (const Move& move : legal) {
    const std::string text = move.to_string();
    if (begins_with(text, line) || begins_with(bare(text), line)) {
      result.candidates.push_back(move);
    }
  }
  if (result.candidates.size() == 1) result.move = result.candidates.front();
  return result;
}

}  // namespace orchard::cli
