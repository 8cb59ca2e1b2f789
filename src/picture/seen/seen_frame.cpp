#include "picture/seen/seen_frame.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <iterator>
#include <map>

#include "orchard/review.hpp"
#include "picture/face/frames.hpp"

namespace orchard::picture {

View fresh_view(const Game& game, const Role& role, const Position& start) {
  View view(game, role, start);
  if (game.has_hidden_information()) view.exclude(exclusive_fluents(game, start));
  return view;
}

namespace {

// Deduced, if that is asked for and not too much.
Insight insight_into(const View& view, Insight wanted) {
  return wanted == Insight::deduced && view.exact() ? wanted : Insight::told;
}

}  // namespace

std::optional<PictureFrame> seen_frame(const Game& game, const Picture& picture, const View& view,
                                       Insight wanted, const Position& position, bool with_moves) {
  if (game.terminal(position)) return frame_of(game, position, {});
  const bool deduced = insight_into(view, wanted) == Insight::deduced;
  std::vector<Term> fluents = deduced ? view.known() : view.told();
  const bool told = deduced || view.tells();
  std::vector<Term> unsure = deduced ? view.possible() : view.untold();
  if (!deduced) {
    const auto visible = picture.visible(position, view.role());
    if (!told && !visible) return std::nullopt;
    if (visible) {
      std::vector<Term> all = std::move(fluents);
      fluents.clear();
      std::ranges::set_union(all, *visible, std::back_inserter(fluents));
      std::erase_if(
          unsure, [&](const Term& fluent) { return std::ranges::binary_search(fluents, fluent); });
    }
  }
  const auto known = game.position(fluents);
  if (!known) return std::nullopt;
  PictureFrame frame{*known};
  frame.partial = !told || !unsure.empty();
  frame.unsure = std::move(unsure);
  frame.viewer = view.role();
  for (const View::Step& step : view.steps()) {
    frame.perceived.insert(frame.perceived.end(), step.percepts.begin(), step.percepts.end());
  }
  const std::vector<Role> to_move = game.to_move(position);
  if (with_moves && std::ranges::find(to_move, view.role()) != to_move.end()) {
    frame.moves = numbered_moves(game, position, {view.role()});
  }
  return frame;
}

// How much the view shows, in words.
std::string extent(const View& view, const PictureFrame& frame, Insight wanted) {
  const bool deduced = insight_into(view, wanted) == Insight::deduced;
  if (!frame.partial) return "everything";
  if (deduced) {
    return fmt::format("what holds in all {} positions that fit what it knows", view.positions());
  }
  std::string text =
      view.tells() ? "what the rules have told it" : "what the drawing rules show it";
  if (wanted == Insight::deduced) {
    text += fmt::format(" (more than {} positions fit; what follows from them is not worked out)",
                        View::usual_positions);
  }
  return text;
}

// What else could hold, by name; and what was known to hold once.
std::vector<Uncertainty> uncertainty(const View& view, const PictureFrame& frame, Insight wanted) {
  std::map<std::string, std::size_t> open;
  for (const Term& fluent : frame.unsure) ++open[std::string(fluent.name())];
  std::vector<Uncertainty> result;
  std::vector<std::string> words;
  for (const auto& [name, count] : open) {
    words.push_back(count == 1 ? name : fmt::format("{} ({} could hold)", name, count));
    if (words.size() < open.size()) words.back() += ",";
  }
  if (!words.empty()) result.push_back({"not known:", std::move(words)});
  if (insight_into(view, wanted) == Insight::deduced) return result;
  constexpr std::size_t most = 8;
  std::vector<View::Memory> memories = view.memories();
  std::erase_if(memories, [&](const View::Memory& memory) {
    return !std::ranges::binary_search(frame.unsure, memory.fluent);
  });
  std::ranges::stable_sort(memories, std::greater(), &View::Memory::ply);
  words.clear();
  for (std::size_t at = 0; at < std::min(most, memories.size()); ++at) {
    words.push_back(fmt::format("{} at ply {}{}", memories[at].fluent.to_string(), memories[at].ply,
                                at + 1 < memories.size() ? "," : ""));
  }
  if (memories.size() > most) {
    words.push_back(fmt::format("and {} others", memories.size() - most));
  }
  if (!words.empty()) result.push_back({"last known:", std::move(words)});
  return result;
}

}  // namespace orchard::picture
