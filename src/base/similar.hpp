// What was probably meant by a misspelled name.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace orchard {

// The number of single-letter insertions, deletions, replacements and swaps of neighbours that
// turn one name into the other; O(length × length) of names up to 64 bytes, longer ones compare
// as unrelated.
int edit_distance(std::string_view a, std::string_view b);

// The closest of the names, if it is close enough to be what was meant: at most a third of the
// letters changed, and two at most.
std::optional<std::string> most_similar(std::string_view name, std::span<const std::string> names);

}  // namespace orchard
