// The one table of commands and options: it gives parsing, ranges, help and docs/COMMANDS.md.
//
// What stands here is the contract of the command line; nothing else lists options. A test checks
// that every option is read by some command and described in the docs.
#pragma once

#include <cstdint>
#include <span>
#include <string_view>

namespace orchard {

struct CommandFacts {
  std::string_view name;
  std::string_view summary;    // one line
  std::string_view arguments;  // how the positional argument is called in help; empty: none
  std::string_view details;    // a paragraph
  std::string_view form = {};  // values of a first argument before the game: A|B
  std::string_view more = {};  // what a last argument behind the game is called
};

struct OptionFacts {
  // `output`: a text too, the path of a file that is written at the end.
  enum class Kind { flag, number, seconds, bytes, text, repeated_text, choice, output };

  std::string_view name;  // without the dashes
  Kind kind = Kind::flag;
  std::string_view value;    // how the value is called in help; of a choice: A|B; empty for a flag
  std::string_view initial;  // what holds if it is not given; empty if nothing does
  std::uint64_t least = 0;   // of a number
  std::uint64_t most = 0;
  std::string_view commands;  // names with spaces between; "*" for all
  std::string_view help;

  bool belongs_to(std::string_view command) const;
};

// What can be typed at the prompt of `play`.
struct PromptFacts {
  std::string_view word;       // "save"; empty for a move
  std::string_view arguments;  // "FILE"
  std::string_view does;
};

std::span<const CommandFacts> command_table();
std::span<const PromptFacts> prompt_table();
std::span<const OptionFacts> option_table();

}  // namespace orchard
