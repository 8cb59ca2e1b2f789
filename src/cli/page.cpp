#include "cli/page.hpp"

#include <fmt/core.h>
#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <map>

#include "cli/call.hpp"
#include "orchard/match.hpp"
#include "orchard/review.hpp"

namespace orchard::cli {
namespace {

std::string names(const std::vector<Role>& roles) {
  std::string text;
  for (const Role& role : roles) text += (text.empty() ? "" : " and ") + role.name();
  return text;
}

// Items in as many columns as fit the width, read downwards row by row.
std::string in_columns(const std::vector<std::string>& items, int width) {
  constexpr std::size_t gap = 3;
  std::size_t longest = 0;
  for (const std::string& item : items) longest = std::max(longest, item.size());
  const std::size_t columns =
      std::max<std::size_t>(1, static_cast<std::size_t>(std::max(width, 20)) / (longest + gap));
  std::string text;
  for (std::size_t i = 0; i < items.size(); ++i) {
    const bool last = i + 1 == items.size() || (i + 1) % columns == 0;
    text += std::string(gap, ' ') + items[i];
    text += last ? "\n" : std::string(longest - items[i].size(), ' ');
  }
  return text;
}

// Moves of one function in a line: "    1 … 64   hop: 64 moves, from (hop 1 1 3) to (hop 8 8 6)".
std::string folded(const std::vector<NumberedMove>& moves) {
  std::string text;
  const std::size_t digits = std::to_string(moves.back().number).size();
  for (std::size_t first = 0; first < moves.size();) {
    const Term move = moves[first].move.term();
    std::size_t end = first + 1;
    while (end < moves.size() && moves[end].move.term().name() == move.name() &&
           moves[end].move.term().arity() == move.arity()) {
      ++end;
    }
    if (end == first + 1) {
      text += fmt::format("   {:>{}}       {}\n", moves[first].number, digits, move.to_string());
    } else {
      text += fmt::format("   {:>{}} … {:>{}}   {} moves, from {} to {}\n", moves[first].number,
                          digits, moves[end - 1].number, digits, end - first, move.to_string(),
                          moves[end - 1].move.to_string());
    }
    first = end;
  }
  return text;
}

}  // namespace

PageStyle::PageStyle(const Call& call) : text(call.style()) {
  if (call.flag("every-move")) most_listed = static_cast<std::size_t>(-1);
}

std::string heading(const Game& game, const Position& position, std::uint64_t ply) {
  if (game.terminal(position)) {
    return fmt::format("ply {}   over: {}\n", ply, describe(game, outcome_of(game, position)));
  }
  std::vector<Role> stuck;
  for (const Role& role : game.roles()) {
    if (game.legal(position, role).empty()) stuck.push_back(role);
  }
  if (!stuck.empty()) {
    return fmt::format("ply {}   not over, but {} {} no legal move\n", ply, names(stuck),
                       stuck.size() == 1 ? "has" : "have");
  }
  return fmt::format("ply {}   {} to move\n", ply, names(game.to_move(position)));
}

std::vector<NumberedMove> numbered_moves(const Game& game, const Position& position,
                                         const std::vector<Role>& roles) {
  std::vector<NumberedMove> moves;
  for (const Role& role : roles) {
    for (const Move& move : game.legal(position, role)) {
      moves.push_back({role, move, moves.size() + 1});
    }
  }
  return moves;
}

std::string move_list(const Game& game, const Position& position,
                      const std::vector<NumberedMove>& moves, const PageStyle& style,
                      bool numbered_only) {
  std::string text;
  const std::size_t digits = std::to_string(moves.size()).size();
  for (const Role& role : game.roles()) {
    std::vector<NumberedMove> own;
    std::vector<std::string> items;
    for (const NumberedMove& move : moves) {
      if (move.role != role) continue;
      own.push_back(move);
      items.push_back(fmt::format("{:>{}} {}", move.number, digits, move.move.to_string()));
    }
    if (items.size() > style.most_listed) {
      text += fmt::format("legal for {}, {} moves:\n{}", role.name(), own.size(), folded(own));
      continue;
    }
    if (!items.empty()) {
      text += fmt::format("legal for {}:\n{}", role.name(), in_columns(items, style.text.width));
      continue;
    }
    const std::vector<Move> others = game.legal(position, role);
    if (others.empty() || numbered_only) continue;
    text += fmt::format("legal for {}:", role.name());
    for (const Move& move : others) text += " " + move.to_string();
    text += "\n";
  }
  return text;
}

PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<picture::LastStep>& last, bool with_moves) {
  PictureFrame frame = picture::frame_of(game, position, last);
  if (with_moves && !game.terminal(position)) {
    frame.moves = numbered_moves(game, position, game.to_move(position));
  }
  return frame;
}

Insight insight_of(const Call& call) {
  return call.flag("deduced") ? Insight::deduced : Insight::told;
}

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

std::optional<PictureFrame> frame_of(const Game& game, const Picture& picture, const View& view,
                                     Insight wanted, const Position& position, bool with_moves) {
  if (game.terminal(position)) return frame_of(game, position, {}, false);
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

std::string line_text(const Game& game, const Line& line) {
  constexpr std::size_t most = 60;  // plies shown; of a longer line the first and last ones
  std::string text;
  for (std::size_t ply = 0; ply < line.joints.size(); ++ply) {
    if (line.joints.size() > most && ply >= most / 2 && ply + most / 2 < line.joints.size()) {
      if (ply == most / 2) text += fmt::format("     … {} plies …\n", line.joints.size() - most);
      continue;
    }
    text += fmt::format("   {:>3}", ply + 1);
    for (const Role& role : game.to_move(line.positions[ply])) {
      text += fmt::format("   {} {}", role.name(), line.joints[ply][role].to_string());
    }
    text += "\n";
  }
  return text;
}

std::string page(const Game& game, const Picture& picture, const Position& position,
                 std::uint64_t ply, const PageStyle& style, bool with_moves,
                 const std::optional<picture::LastStep>& last) {
  const PictureFrame frame = frame_of(game, position, last, with_moves);
  std::string text = heading(game, position, ply);
  if (!frame.last_moves.empty()) {
    text.pop_back();
    text += "   last:";
    for (const auto& [role, move] : frame.last_moves) {
      text += fmt::format(" {} {}", role.name(), move.to_string());
    }
    text += "\n";
  }
  text += "\n" + picture.text(frame, style.text);
  if (with_moves && !game.terminal(position)) {
    text += "\n" + move_list(game, position, frame.moves, style);
  }
  return text;
}

namespace {

// Words behind a beginning, in as many lines as they need.
std::string in_lines(std::string line, const std::vector<std::string>& words, int width) {
  std::string text;
  for (const std::string& word : words) {
    if (line.size() + 1 + word.size() > static_cast<std::size_t>(std::max(width, 20))) {
      text += line + "\n";
      line = "      ";
    }
    line += " " + word;
  }
  return text + line + "\n";
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

// "not known: holds (7 could hold), in_shed (3 could hold)"
struct Uncertainty {
  std::string_view what;
  std::vector<std::string> words;
};

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

}  // namespace

std::vector<std::string> view_captions(const View& view, const PictureFrame& frame,
                                       Insight insight) {
  std::vector<std::string> result{
      fmt::format("seen by {}: {}", view.role().name(), extent(view, frame, insight))};
  for (const Uncertainty& one : uncertainty(view, frame, insight)) {
    result.push_back(fmt::format("{} {}", one.what, fmt::join(one.words, " ")));
  }
  return result;
}

std::string view_page(const Game& game, const Picture& picture, const View& view, Insight insight,
                      const Position& position, std::uint64_t ply, const PageStyle& style,
                      bool with_moves, std::uint64_t from) {
  if (game.terminal(position)) return page(game, picture, position, ply, style, false);
  std::string text = heading(game, position, ply);
  const std::string& who = view.role().name();
  const auto frame = frame_of(game, picture, view, insight, position, with_moves);
  if (frame) {
    text += fmt::format("seen by {}: {}\n\n", who, extent(view, *frame, insight));
    text += picture.text(*frame, style.text);
    for (const Uncertainty& one : uncertainty(view, *frame, insight)) {
      text += in_lines(fmt::format("   {}", one.what), one.words, style.text.width);
    }
  } else {
    text += fmt::format(
        "seen by {}: these rules are too large for their parts to be followed; "
        "drawing rules can say what is shown: (visible ROLE FLUENT)\n",
        who);
    from = 0;
  }
  const std::vector<View::Step>& steps = view.steps();
  for (std::uint64_t at = from; at < steps.size(); ++at) {
    if (steps[at].percepts.empty() || picture.shows_percepts()) continue;
    std::vector<std::string> percepts;
    for (const Term& percept : steps[at].percepts) percepts.push_back(percept.to_string());
    text += in_lines(fmt::format("   ply {}: {} sees", at + 1, who), percepts, style.text.width);
  }
  const std::vector<Role> to_move = game.to_move(position);
  const bool chooses = with_moves && std::ranges::find(to_move, view.role()) != to_move.end();
  if (chooses) {
    const auto moves = numbered_moves(game, position, {view.role()});
    text += "\n" + move_list(game, position, moves, style, true);
  }
  return text;
}

}  // namespace orchard::cli
