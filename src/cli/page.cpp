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

}  // namespace

std::vector<std::string> view_captions(const View& view, const PictureFrame& frame,
                                       Insight insight) {
  std::vector<std::string> result{
      fmt::format("seen by {}: {}", view.role().name(), picture::extent(view, frame, insight))};
  for (const picture::Uncertainty& one : picture::uncertainty(view, frame, insight)) {
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
  const auto frame = seen_frame(game, picture, view, insight, position, with_moves);
  if (frame) {
    text += fmt::format("seen by {}: {}\n\n", who, picture::extent(view, *frame, insight));
    text += picture.text(*frame, style.text);
    for (const picture::Uncertainty& one : picture::uncertainty(view, *frame, insight)) {
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
