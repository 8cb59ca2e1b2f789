// A line that somebody types, with history and completion where there is a terminal.
//
// On a terminal the line is edited by libedit, whose state is the process's own: one LineInput at
// a time. Elsewhere lines are read plainly and printed again, so that a transcript shows them.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace orchard::cli {

class LineInput {
 public:
  LineInput();

  // None at the end of the input. `completions`: what Tab may complete the line to.
  std::optional<std::string> read(const std::string& prompt,
                                  const std::vector<std::string>& completions);
  // Takes the line that was read last off the screen, and out of what the arrow keys bring back: a
  // choice that others at the table should not see yet. Nothing where lines come from elsewhere.
  void hide_last() const;
  bool on_terminal() const { return on_terminal_; }

 private:
  bool on_terminal_;
  std::size_t last_letters_ = 0;  // of the line read last, with its prompt
};

}  // namespace orchard::cli
