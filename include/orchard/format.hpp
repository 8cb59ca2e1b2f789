// Descriptions written out: laid out well, in either syntax of the language, and with their
// directives expanded.
//
//   auto text = orchard::format_file("games/espalier.gdl", {.to = orchard::Syntax::infix}).value();
//
// Layout keeps the order of the forms, their comments, and single blank lines between them; lines
// stay within 100 columns where that is possible. Laying out twice is the same as once, and what
// is written reads back to the same forms. Any thread may call.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>

#include "orchard/result.hpp"

namespace orchard {

// The two ways to write a description.
enum class Syntax {
  prefix,  // (<= (legal ?role wait) (role ?role)), files NAME.gdl
  infix,   // legal(Role, wait) :- role(Role)., files NAME.gdli
};

// The syntax that a file name tells: infix for NAME.gdli, else prefix.
Syntax syntax_of(std::string_view file_name);

// How a text is laid out, and what it may cost to read.
struct FormatOptions {
  std::optional<Syntax> to{};                   // that of the text if not set
  bool expand = false;                          // directives worked out, comments left out
  std::map<std::string, std::int64_t> sizes{};  // in place of the numbers of #let, when expanding
  // The largest file that is read, in bytes.
  std::size_t file_bytes = 16u << 20;
  // The deepest nesting of lists that is read.
  std::size_t nesting = 10'000;
  // The most different names that are read.
  std::size_t symbols = 1'000'000;
  std::size_t forms = 1'000'000;  // that the directives make
};

// Fails with the mistakes of the text, if it has any, and with `cannot-write` for forms that the
// infix syntax has no way to say, such as (). Files of cases and positions are laid out too.
// O(length of the text and of what comes out).
Result<std::string> format_text(std::string text, std::string name,
                                const FormatOptions& options = {});
// Formats a file; directives that include other files are resolved relative to it.
Result<std::string> format_file(const std::string& path, const FormatOptions& options = {});

}  // namespace orchard
