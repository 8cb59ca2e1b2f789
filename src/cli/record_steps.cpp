#include "cli/record_steps.hpp"

#include <algorithm>
#include <cstdlib>

#include "cli/line_input.hpp"
#include "cli/move_input.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"

namespace orchard::cli {

void step_through(const Call& call, const Game& game, const Picture& picture, const Line& line,
                  const MatchRecord& record) {
  LineInput input;
  const char* const terminal = std::getenv("TERM");
  const bool in_place = input.on_terminal() && terminal != nullptr && *terminal != '\0' &&
                        std::string_view(terminal) != "dumb";
  const std::size_t last = line.joints.size();
  std::size_t ply = 0;
  while (true) {
    if (in_place) print("\x1b[H\x1b[2J");
    const auto step = picture::step_to(line, ply);
    print("{}\n", page(game, picture, line.positions[ply], ply, PageStyle(call), false, step));
    if (ply > 0 && ply - 1 < record.notes.size()) {
      for (const auto& [role, replaced] : record.notes[ply - 1].replaced) {
        print("   the move of {} is the host's: {} {}\n", role, replaced.why, replaced.said);
      }
    }
    const auto typed =
        input.read(fmt::format("ply {} of {}; Enter goes on, back, a ply, or quit> ", ply, last),
                   {"back", "first", "last", "quit"});
    if (!typed) return;
    const std::string word = tidied(*typed);
    if (word == "quit" || word == "q") return;
    if (word.empty() || word == "next") {
      if (ply == last) return;
      ++ply;
    } else if (word == "back" || word == "b") {
      ply -= ply > 0 ? 1 : 0;
    } else if (word == "first") {
      ply = 0;
    } else if (word == "last") {
      ply = last;
    } else if (word.find_first_not_of("0123456789") == std::string::npos && word.size() < 9) {
      ply = std::min<std::size_t>(last, std::strtoull(word.c_str(), nullptr, 10));
    } else {
      print("   Enter goes on; back, first, last, the number of a ply, or quit\n");
    }
  }
}

}  // namespace orchard::cli
