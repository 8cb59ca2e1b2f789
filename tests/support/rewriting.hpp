// The same game in other styles of writing.
//
// Each rewriting keeps what is played: the same positions, legal moves, ends and goals, under other
// names or with other rules. Directives are worked out first.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace orchard::testing {

struct Rewriting {
  std::string name;
  // None if the rewriting has nothing to do in these rules.
  std::function<std::string(const std::string& rules)> rewrite;
  // What things of these rules are called after rewriting, as `Renaming` reads it; none where no
  // list of names can say it.
  std::function<std::optional<std::string>(const std::string& rules)> renaming;
};

// Names changed; numbers as names; arguments turned round; rules and conditions in reverse order;
// rules of one head joined by `or`, and taken apart; helper relations folded into their users; what
// never changes spelt out as facts; numbers as nested terms; conditions split off into helper
// relations; whose turn it is by a fluent that is there or not, or by the number of plies; and the
// board told in other ways (`board_styles.hpp`).
const std::vector<Rewriting>& rewritings();

}  // namespace orchard::testing
