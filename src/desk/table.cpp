#include "desk/table.hpp"

#include <fmt/core.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <random>

#include "orchard/match.hpp"
#include "picture/face/frames.hpp"
#include "picture/seen/seen_frame.hpp"

namespace orchard::desk {

namespace {

constexpr std::size_t most_in_window = 2000;  // listed in a window

std::string text_of_joint(const Game& game, const JointMove& joint) {
  std::string text;
  for (const Role& role : game.roles()) text += joint[role].to_string() + " ";
  return text;
}

}  // namespace

std::string random_token() {
  std::random_device device;
  std::string token;
  for (int i = 0; i < 4; ++i) token += fmt::format("{:08x}", device());
  return token;
}

bool Table::has(const std::string& token) const {
  const std::lock_guard lock(mutex_);
  return windows_.contains(token);
}

bool Table::may_choose(const Role& role) const {
  const std::vector<Role> to_move = here_->game().to_move(here_->position());
  return std::ranges::find(to_move, role) != to_move.end();
}

Json Table::who_has_chosen() const {
  Json names = Json::array();
  for (const auto& [role, move] : choices_) names.push_back(role);
  return names;
}

Json Table::set(const Asked& here, const Json& request) {
  const std::lock_guard lock(mutex_);
  const Game& game = here.game();
  std::string standing = text_of(request, "rules") + '\0' + text_of(request, "drawing");
  for (const JointMove& joint : here.line.joints) standing += '\0' + text_of_joint(game, joint);
  here_ = here;
  seated_.clear();
  const auto seats = request.find("seats");
  if (seats != request.end() && seats->is_array()) {
    for (const Json& role : *seats) {
      if (role.is_string() && game.role(role.get<std::string>())) seated_.insert(role);
    }
  }
  if (standing != standing_ || is_set(request, "turned") != turned_) {
    if (standing != standing_) choices_.clear();
    standing_ = std::move(standing);
    turned_ = is_set(request, "turned");
    ++version_;
  }
  std::erase_if(choices_, [&](const auto& choice) { return !seated_.contains(choice.first); });
  Json addresses = Json::object();
  const auto token_of = [&](const std::string& role) {
    std::string& token = tokens_[role];
    if (token.empty()) {
      token = random_token();
      windows_[token].role = role;
    }
    return token;
  };
  for (const std::string& role : seated_) addresses[role] = token_of(role);
  Json result = {{"seats", addresses}, {"onlookers", token_of("")}, {"chosen", who_has_chosen()}};
  // All that sit at windows and have a choice have made it.
  const bool all_in =
      !choices_.empty() && std::ranges::all_of(seated_, [&](const std::string& name) {
        return choices_.contains(name) || !may_choose(*game.role(name));
      });
  if (all_in) result["choices"] = choices_;
  return result;
}

// What a role knows now; goes on from what it knew if play went on from there.
const View& Table::view_of(Window& window, const Role& role) {
  const Line& line = here_->line;
  const Game& game = here_->game();
  bool goes_on = window.view && window.of == here_->reading && window.plies <= line.joints.size();
  for (std::size_t ply = 0; goes_on && ply < window.plies; ++ply) {
    goes_on = window.made[ply] == text_of_joint(game, line.joints[ply]);
  }
  if (!goes_on) {
    if (!window.at_start || window.of != here_->reading) {
      window.at_start.emplace(picture::fresh_view(game, role, line.positions.front()));
      window.of = here_->reading;
    }
    window.view = window.at_start;
    window.plies = 0;
    window.made.clear();
  }
  for (; window.plies < line.joints.size(); ++window.plies) {
    (void)window.view->advance(line.positions[window.plies], line.joints[window.plies]);
    window.made.push_back(text_of_joint(game, line.joints[window.plies]));
  }
  return *window.view;
}

// The picture for a window, and what it may know beside.
Json Table::shown(Window& window) {
  const Game& game = here_->game();
  const Position& position = here_->position();
  const Picture& picture = here_->reading->picture();
  SvgStyle style;
  style.places = true;
  style.turned = turned_;
  Json result = Json::object();
  const bool open = !game.has_hidden_information() || game.terminal(position);
  if (window.role.empty()) {
    // Onlookers sit beside those who must not know.
    if (!open) return {{"words", {"What the roles cannot see is shown when the game is over."}}};
    result["svg"] =
        picture.svg({picture::frame_of(game, position, picture::last_step(here_->line))}, style);
    return result;
  }
  const Role role = *game.role(window.role);
  std::optional<PictureFrame> frame;
  if (open) {
    frame = picture::frame_of(game, position, picture::last_step(here_->line));
    if (may_choose(role)) frame->moves = picture::numbered_moves(game, position, {role});
  } else {
    const View& view = view_of(window, role);
    frame = picture::seen_frame(game, picture, view, picture::Insight::told, position, true);
    std::vector<std::string> words;
    if (frame) {
      words.push_back(fmt::format("seen by {}: {}", role.name(),
                                  picture::extent(view, *frame, picture::Insight::told)));
      for (const auto& one : picture::uncertainty(view, *frame, picture::Insight::told)) {
        words.push_back(fmt::format("{} {}", one.what, fmt::join(one.words, " ")));
      }
    } else {
      words.emplace_back(
          "these rules are too large for their parts to be followed; drawing rules can say what is "
          "shown");
    }
    for (std::size_t ply = 0; ply < view.steps().size(); ++ply) {
      for (const Term& percept : view.steps()[ply].percepts) {
        words.push_back(
            fmt::format("ply {}: {} sees {}", ply + 1, role.name(), percept.to_string()));
      }
    }
    result["words"] = words;
  }
  if (frame) result["svg"] = picture.svg({*frame}, style);
  return result;
}

Json Table::seen_by(Window& window) {
  const Game& game = here_->game();
  const Position& position = here_->position();
  Json result = {
      {"role", window.role}, {"ply", here_->line.joints.size()}, {"over", game.terminal(position)}};
  Json to_move = Json::array();
  for (const Role& role : game.to_move(position)) to_move.push_back(role.name());
  result["to_move"] = std::move(to_move);
  if (game.terminal(position)) result["outcome"] = describe(game, outcome_of(game, position));
  result["chosen"] = who_has_chosen();
  result.update(shown(window));
  Json moves = Json::array();
  const auto role = game.role(window.role);
  if (role && may_choose(*role) && seated_.contains(window.role) &&
      !choices_.contains(window.role)) {
    for (const NumberedMove& one : picture::numbered_moves(game, position, {*role})) {
      if (one.number > most_in_window) break;
      std::vector<std::string> words;
      add_words(one.move.term(), words);
      moves.push_back({{"role", window.role},
                       {"move", one.move.to_string()},
                       {"number", one.number},
                       {"words", words}});
    }
  }
  result["moves"] = std::move(moves);
  return result;
}

Json Table::look(const std::string& token, const Json& request) {
  const std::lock_guard lock(mutex_);
  const auto window = windows_.find(token);
  if (window == windows_.end() || !here_) return error("this seat is not open");
  const std::string version = fmt::format("{}-{}", version_, choices_.size());
  if (text_of(request, "seen") == version) return {{"version", version}};
  // A role may be gone from the rules meanwhile.
  if (!window->second.role.empty() && !here_->game().role(window->second.role)) {
    return error("there is no role " + window->second.role + " any more");
  }
  Json result = seen_by(window->second);
  result["version"] = version;
  return result;
}

Json Table::choose(const std::string& token, const Json& request) {
  const std::lock_guard lock(mutex_);
  const auto window = windows_.find(token);
  if (window == windows_.end() || !here_) return error("this seat is not open");
  const std::string& name = window->second.role;
  const auto role = here_->game().role(name);
  if (!role || !seated_.contains(name)) return error("nobody chooses here");
  if (static_cast<double>(here_->line.joints.size()) != number_of(request, "ply", -1, 1e9)) {
    return error("play has gone on meanwhile");
  }
  if (choices_.contains(name)) return error("you have chosen already");
  const std::string wanted = text_of(request, "move");
  for (const Move& move : here_->game().legal(here_->position(), *role)) {
    if (move.to_string() != wanted) continue;
    choices_[name] = wanted;
    return {{"chosen", wanted}};
  }
  return error(wanted + " is not legal now");
}

}  // namespace orchard::desk
