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
  std::size_t number = 0;
  const auto [end, error] = std::from_chars(line.data(), line.data() + line.size(), number);
  if (error == std::errc{} && end == line.data() + line.size() && number >= first_number &&
      number < first_number + legal.size()) {
    return {legal[number - first_number], {}};
  }
  TypedMove result;
  for (const Move& move : legal) {
    const std::string text = move.to_string();
    if (text.starts_with(line) || bare(text).starts_with(line)) result.candidates.push_back(move);
  }
  if (result.candidates.size() == 1) result.move = result.candidates.front();
  return result;
}

}  // namespace orchard::cli
