// The tokens of the infix syntax. Inner part of `read_infix`.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "syntax/tree.hpp"

namespace orchard::syntax {

struct InfixToken {
  enum class Kind {
    name,
    variable,  // `text` without question mark; empty for `_`
    string,
    open,
    close,
    comma,
    semicolon,
    neck,      // :-
    negation,  // \+
    stop,
    end,      // of the text
    mistake,  // reported
  };
  Kind kind = Kind::end;
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
  std::string_view text;      // of a name or variable as it stands in the source …
  std::string unquoted = {};  // … or the contents of quotes, if it has any
  bool quoted = false;
};

class InfixTokens {
 public:
  InfixTokens(const Source& source, Diagnostics& diagnostics, std::vector<Comment>& comments);

  InfixToken next();
  // To behind the next full stop that ends a form; for going on after a mistake.
  void skip_form();

 private:
  InfixToken token(InfixToken::Kind kind, std::uint32_t length);
  InfixToken word();
  InfixToken quoted(InfixToken::Kind kind, std::uint32_t begin);
  InfixToken mistake(std::uint32_t end, std::string code, std::string message, std::string remedy);
  char at(std::size_t offset) const {
    return at_ + offset < text_.size() ? text_[at_ + offset] : 0;
  }

  const Source& source_;
  const std::string_view text_;
  Diagnostics& diagnostics_;
  std::vector<Comment>& comments_;
  std::uint32_t at_ = 0;
};

}  // namespace orchard::syntax
