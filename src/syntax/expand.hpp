// Directives: sizes and repetition, expanded to plain forms before anything else sees the rules.
//
//   (#let NAME NUMBER)             NAME stands for the number wherever it stands as a term; a size
//                                  given from outside, or by a file that includes this one, wins
//   (#for ?v FROM TO FORM…)        the forms once for each number; nothing if FROM > TO
//   (#+ a b) (#- a b) (#* a b) (#div a b) (#mod a b)
//                                  a number; #div rounds down, #mod is never negative
//   (#include "FILE")              the forms of a file in the same folder or below
//   (#count ?n (NAME … ?n) WHERE CONDITION…)
//                                  rules that count the conditions that hold (`counting.hpp`)
//
// Bounds and operands are numbers, names of #let, variables of #for around, or arithmetic. #for
// may stand wherever forms or terms stand one after another; #let, #include and #count stand
// between the rules. A text without directives comes out as it went in.
//
// Linear in what comes out, which is bounded; no recursion but for the nesting of included files.
#pragma once

#include <cstdint>
#include <map>
#include <string>

#include "syntax/reader.hpp"

namespace orchard::syntax {

using Sizes = std::map<std::string, std::int64_t>;  // values given from outside, by name of #let

// Reads a description and expands its directives. Mistakes go to `diagnostics`: those of `read`,
// and bad-directive, expands-too-far, unknown-size, cannot-include, cannot-read.
Tree read_description(Source source, const Limits& limits, const Sizes& sizes,
                      Diagnostics& diagnostics);

// The same rules with the forms of further texts behind them, in which the sizes of the rules stand
// already. `strings`: whether the further texts have strings.
Tree read_further(const Tree& rules, const std::vector<Source>& further, const Limits& limits,
                  Diagnostics& diagnostics, bool strings = false);

}  // namespace orchard::syntax
