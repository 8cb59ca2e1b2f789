#include "cli/line_input.hpp"
#include "cli/output.hpp"

#include <fmt/core.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <iostream>

#include <editline/readline.h>

namespace orchard::cli {
namespace {

// libedit asks a plain function, so what it may answer stands here while a line is read.
const std::vector<std::string>* offered = nullptr;

char* next_match(const char* text, int state) {
  static std::size_t at;
  if (state == 0) at = 0;
  const std::string_view begun(text);
  while (offered != nullptr && at < offered->size()) {
    const std::string& next = (*offered)[at++];
    if (next.starts_with(begun)) return ::strdup(next.c_str());
  }
  return nullptr;
}

char** matches(const char* text, int, int) {
  rl_attempted_completion_over = 1;  // no file names
  return rl_completion_matches(text, next_match);
}

}  // namespace

LineInput::LineInput() : on_terminal_(::isatty(STDIN_FILENO) != 0 && ::isatty(STDOUT_FILENO) != 0) {
  if (!on_terminal_) return;
  rl_initialize();
  rl_attempted_completion_function = matches;
  // The whole line is one word: moves hold blanks and parentheses.
  static char breaks[] = "\n";
  rl_basic_word_break_characters = breaks;
  rl_completer_word_break_characters = breaks;
  using_history();
}

std::optional<std::string> LineInput::read(const std::string& prompt,
                                           const std::vector<std::string>& completions) {
  if (on_terminal_) {
    std::fflush(stdout);
    offered = &completions;
    char* typed = ::readline(prompt.c_str());
    offered = nullptr;
    if (typed == nullptr) {
      print("\n");
      return std::nullopt;
    }
    std::string line(typed);
    std::free(typed);
    last_letters_ = prompt.size() + line.size();
    if (line.find_first_not_of(' ') != std::string::npos) add_history(line.c_str());
    return line;
  }
  print("{}", prompt);
  std::fflush(stdout);
  std::string line;
  if (!std::getline(std::cin, line)) {
    print("\n");
    return std::nullopt;
  }
  if (::isatty(STDIN_FILENO) == 0) print("{}\n", line);  // a transcript shows what was typed
  return line;
}

void LineInput::hide_last() const {
  if (!on_terminal_) return;
  winsize size{};
  if (::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) != 0 || size.ws_col == 0) size.ws_col = 80;
  for (std::size_t rows = last_letters_ / size.ws_col + 1; rows > 0; --rows) {
    print("\x1b[1A\x1b[2K");
  }
  if (history_length > 0) {
    if (HIST_ENTRY* const last = remove_history(history_length - 1))
      std::free(free_history_entry(last));
  }
}

}  // namespace orchard::cli
