// What a role may see of a position, as a picture shows it.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/picture.hpp"
#include "orchard/view.hpp"

namespace orchard::picture {

// How much of what a role could know is shown to it: what the rules told it, or all that follows.
enum class Insight { told, deduced };

// A view that knows what excludes what. Proves it, for up to a second, where anything is hidden.
View fresh_view(const Game& game, const Role& role, const Position& start);

// A position as a role sees it, with what the drawing rules let it see where nothing is deduced,
// and its own legal moves if wanted; at an end everything. None if the rules have no circuit and
// the drawing rules say nothing of it.
std::optional<PictureFrame> seen_frame(const Game& game, const Picture& picture, const View& view,
                                       Insight insight, const Position& position, bool with_moves);

// How much such a picture shows, in words: "everything", "what the rules have told it".
std::string extent(const View& view, const PictureFrame& frame, Insight insight);

// "not known: holds (7 could hold), in_shed (3 could hold)"
struct Uncertainty {
  std::string_view what;
  std::vector<std::string> words;
};
// What else could hold, by name; and what was known to hold once.
std::vector<Uncertainty> uncertainty(const View& view, const PictureFrame& frame, Insight insight);

}  // namespace orchard::picture
