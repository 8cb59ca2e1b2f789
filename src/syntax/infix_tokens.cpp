#include "syntax/infix_tokens.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "syntax/characters.hpp"

namespace orchard::syntax {

using Kind = InfixToken::Kind;

namespace {

bool is_space(char c) {
  return c == ' ' || (c >= '\t' && c <= '\r');
}

// What a name of the language may be made of; a string mark at its head would not read back.
bool is_name(std::string_view text, bool variable) {
  if (text.empty() || (!variable && (text.front() == '?' || text.front() == '"'))) return false;
  while (!text.empty()) {
    const Character character = first_character(text);
    if (class_of(character) != CharacterClass::symbol) return false;
    text.remove_prefix(character.bytes);
  }
  return true;
}

}  // namespace

InfixTokens::InfixTokens(const Source& source, Diagnostics& diagnostics,
                         std::vector<Comment>& comments)
    : source_(source), text_(source.text()), diagnostics_(diagnostics), comments_(comments) {
  if (text_.starts_with("\xEF\xBB\xBF")) at_ = 3;  // byte order mark
}

InfixToken InfixTokens::token(Kind kind, std::uint32_t length) {
  InfixToken result{kind, at_, at_ + length, text_.substr(at_, length)};
  at_ += length;
  return result;
}

InfixToken InfixTokens::mistake(std::uint32_t end, std::string code, std::string message,
                                std::string remedy) {
  if (diagnostics_.full()) {
    diagnostics_.count(Severity::error);
  } else {
    Diagnostic diagnostic = plain_error(std::move(code), std::move(message), std::move(remedy));
    diagnostic.place = source_.place(at_, end);
    diagnostics_.add(std::move(diagnostic));
  }
  return token(Kind::mistake, end - at_);
}

InfixToken InfixTokens::next() {
  for (;;) {
    while (at_ < text_.size() && is_space(text_[at_])) ++at_;
    if (at(0) != '%') break;
    const std::uint32_t begin = at_;
    at_ = static_cast<std::uint32_t>(std::min(text_.find('\n', at_), text_.size()));
    comments_.push_back({begin, at_});
  }
  if (at_ >= text_.size()) return token(Kind::end, 0);
  switch (text_[at_]) {
    case '(':
      return token(Kind::open, 1);
    case ')':
      return token(Kind::close, 1);
    case ',':
      return token(Kind::comma, 1);
    case ';':
      return token(Kind::semicolon, 1);
    case '.':
      return token(Kind::stop, 1);
    case '\'':
      return quoted(Kind::name, at_);
    case '"':
      return quoted(Kind::string, at_);
    default:
      break;
  }
  if (at(0) == '?' && at(1) == '\'') return quoted(Kind::variable, at_ + 1);
  if (at(0) == ':' && at(1) == '-') return token(Kind::neck, 2);
  if (at(0) == '\\' && at(1) == '+') return token(Kind::negation, 2);
  return word();
}

InfixToken InfixTokens::word() {
  const auto length_of = [&](std::uint32_t from, bool (*part)(char)) {
    std::uint32_t length = from;
    while (part(at(length))) ++length;
    return length;
  };
  const char first = at(0);
  if (is_small_letter(first)) return token(Kind::name, length_of(0, is_word_letter));
  if (first == '_' && !is_word_letter(at(1))) {
    InfixToken result = token(Kind::variable, 1);
    result.text = {};
    return result;
  }
  if (is_capital_letter(first) || first == '_')
    return token(Kind::variable, length_of(0, is_word_letter));
  if (is_digit(first) || (first == '-' && is_digit(at(1)))) {
    const std::uint32_t length = length_of(1, is_digit);
    if (!is_word_letter(at(length))) return token(Kind::name, length);
    const std::uint32_t all = length_of(length, is_word_letter);
    return mistake(at_ + all, "bad-name", "a name that begins with a digit needs quotes",
                   fmt::format("write '{}'", text_.substr(at_, all)));
  }
  if (first == '#' && is_small_letter(at(1)))
    return token(Kind::name, length_of(1, is_small_letter));
  if (first == '#' && (at(1) == '+' || at(1) == '-' || at(1) == '*')) return token(Kind::name, 2);
  const Character character = first_character(text_.substr(at_));
  return mistake(at_ + character.bytes, "stray-character",
                 fmt::format("{} does not belong here", describe(character)),
                 "remove it, or put the name in single quotes");
}

InfixToken InfixTokens::quoted(Kind kind, std::uint32_t begin) {
  const char mark = text_[begin];
  std::string contents;
  std::uint32_t end = begin + 1;
  while (end < text_.size() && text_[end] != mark && text_[end] != '\n') {
    if (text_[end] == '\\' && end + 1 < text_.size() && text_[end + 1] != '\n') ++end;
    contents += text_[end++];
  }
  if (end >= text_.size() || text_[end] != mark) {
    return mistake(end, "unclosed-string", "this is never closed in its line",
                   fmt::format("add a {}", mark));
  }
  ++end;
  if (kind != Kind::string && !is_name(contents, kind == Kind::variable)) {
    return mistake(end, "bad-name", "this is not a valid name",
                   "a name is printable characters without spaces, parentheses and semicolons, and "
                   "begins with neither ? nor \"");
  }
  InfixToken result = token(kind, end - at_);
  result.unquoted = std::move(contents);
  result.quoted = true;
  return result;
}

void InfixTokens::skip_form() {
  for (; at_ < text_.size(); ++at_) {
    if (text_[at_] == '.' && (at_ + 1 == text_.size() || is_space(text_[at_ + 1]))) {
      ++at_;
      return;
    }
    if (text_[at_] == '%') {  // a full stop in a comment ends nothing
      at_ = static_cast<std::uint32_t>(std::min(text_.find('\n', at_), text_.size()) - 1);
    }
  }
}

}  // namespace orchard::syntax
