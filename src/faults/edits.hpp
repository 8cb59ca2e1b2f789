// Single small edits of a description, of the kinds that people make by mistake: the source of
// faults on purpose, and of proposals for mending.
//
// They are edits of the text as it is written, before directives are worked out, and change nothing
// around them. The same text gives the same edits in the same order. O(nodes²) within a rule.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/faults.hpp"
#include "syntax/source.hpp"

namespace orchard::faults {

// A stretch of the text and what stands there instead.
struct Stretch {
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
  std::string text;
};

struct Edit {
  FaultKind kind = FaultKind::condition_dropped;
  Place place;
  std::string change;  // "(true (turn ?who)) is dropped"
  std::vector<Stretch> stretches;
};

// All of them, in the order of the text within a kind. Of a text in the prefix syntax that reads.
std::vector<Edit> edits_of(const syntax::Source& source);

// The edits that could take back one of these: the same, with every name, number and variable that
// could stand somewhere, and with conditions and rules added that are built like others.
std::vector<Edit> repairs_of(const syntax::Source& source);

// The text of a file. Fails with `not-prefix` for the infix syntax, in which nothing is edited.
Result<syntax::Source> source_to_edit(const std::string& path);

struct Tried {
  std::size_t done = 0;
  Ending ending = Ending::complete;
};
// Does attempt(number) for each of so many edits, in threads; then calls visit(how many are done),
// if it is given, on the thread of the call.
Tried try_each(std::size_t edits, unsigned threads, const std::function<void(std::size_t)>& attempt,
               const std::function<void(std::size_t done)>& visit);

std::string edited(std::string_view text, const Edit& edit);

}  // namespace orchard::faults
