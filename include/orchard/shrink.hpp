// The smallest description that still shows a fault: for understanding it, and for reports.
//
//   auto small = orchard::shrink_rules("games/faulty/draw_never_noticed.gdl", {"moves"}).value();
//   std::cout << small.text;
//
// Forms, conditions, arguments of directives and sizes are left out or made smaller, one after the
// other, as long as the fault stays (Zeller and Hildebrandt, "Simplifying and isolating
// failure-inducing input", 2002). Any thread may call.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>

#include "orchard/budget.hpp"
#include "orchard/game.hpp"

namespace orchard {

// Leaves forms of a text out, and conditions of rules, and makes the numbers of #let smaller, as
// long as `fails` says of the text that it still does; until nothing more can be left out, or
// `goes_on` says no. Comments go; the layout is that of `format_text`. O(forms²) calls at worst,
// usually O(forms).
std::string shrink_text(const std::string& text,
                        const std::function<bool(const std::string&)>& fails,
                        const std::function<bool()>& goes_on = {});

// What fails, and how it is found out.
struct ShrinkOptions {
  // A question ("moves", "winnable:east"), the name of a claim or of a case, or the code of a
  // finding; if it is empty, the first that fails: of the cases, the questions, the claims, the
  // findings.
  std::string fault{};
  // How descriptions are read.
  LoadOptions load{};
  // The file of cases, if there is one.
  std::optional<std::string> cases{};
  // The file of claims, if there is one.
  std::optional<std::string> claims{};
  // `positions`: that are looked at for one text, 20 000 if not set.
  Budget budget{};
};

// What is left.
struct Shrunk {
  // The description.
  std::string text{};
  // What fails in it, as in the whole one: "moves", "lone-variable" …
  std::string fault{};
  // The number of forms of the whole description, with its directives worked out if it includes
  // others.
  std::size_t forms_before = 0;
  // The number of forms that are left.
  std::size_t forms = 0;
  // The number of texts that were tried.
  std::size_t tried = 0;
  // Why it ended: complete if nothing more can be left out.
  Ending ending = Ending::complete;
};

// Shrinks the description of a file. A case fails as before only if the same expectation finds the
// same; a question only with the same verdict and the same words; and nothing else may fail that
// did not, or whatever lacks most of its rules would do. Fails if the file does not read at all,
// and with `nothing-fails` if nothing does, or not what was asked for.
Result<Shrunk> shrink_rules(const std::string& path, const ShrinkOptions& options = {});

}  // namespace orchard
