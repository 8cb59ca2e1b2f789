#include "desk/desk.hpp"

#include <fmt/core.h>

#include <chrono>
#include <set>

#include "desk/answers.hpp"
#include "desk/texts.hpp"
#include "desk/works.hpp"
#include "game/core.hpp"
#include "orchard/match.hpp"
#include "orchard/opponent.hpp"
#include "orchard/random.hpp"
#include "picture/face/frames.hpp"
#include "report/json.hpp"

namespace orchard::desk {
namespace {

constexpr std::size_t most_moves = 20'000;  // listed one by one
constexpr double longest_work = 600;        // seconds
constexpr double usual_work = 10;
constexpr double longest_thought = 10;     // of an opponent
constexpr std::size_t most_in_strip = 60;  // pictures of a line

Json words_of(const Term& term) {
  std::vector<std::string> words;
  add_words(term, words);
  return words;
}

// The names of relations that say something of a position, for looking at them on the board.
Json relations_json(const Game& game) {
  const logic::Program& program = GameAccess::core(game)->program();
  const rules::Description& description = program.description();
  std::set<std::string> names;
  for (std::size_t r = 0; r < description.relations().size(); ++r) {
    const rules::Relation& relation = description.relations()[r];
    const auto id = static_cast<rules::RelationId>(r);
    const logic::Phase phase = program.tables()[index_of(program.table(id))].phase;
    if (relation.keyword == rules::Keyword::none && phase == logic::Phase::position) {
      names.insert(fmt::format("{}/{}", description.terms().name(relation.name), relation.arity));
    }
  }
  return names;
}

// Adds the ply that the page asks for: the moves it names, for other roles the only one they have,
// for chance a drawn one. Says who has not chosen yet, or why it cannot be played.
Json make_ply(const Game& game, const Json& request, Line& line) {
  const auto make = request.find("make");
  if (make == request.end() || !make->is_object()) return nullptr;
  const Position position = line.last();
  JointMove joint;
  Json waiting = Json::array();
  Random random(std::chrono::steady_clock::now().time_since_epoch().count());
  for (const Role& role : game.roles()) {
    const auto legal = game.legal(position, role);
    const auto named = make->find(role.name());
    if (named != make->end() && named->is_string()) {
      const auto term = Term::parse(named->get<std::string>());
      if (!term) return {{"refused", "this is no move: " + named->get<std::string>()}};
      joint.add(game.move(*term));
    } else if (legal.size() == 1) {
      joint.add(legal.front());
    } else if (role.is_chance() && !legal.empty() && !is_set(request, "dice_by_hand")) {
      joint.add(legal[random.below(legal.size())]);
    } else {
      waiting.push_back(role.name());
    }
  }
  if (!waiting.empty()) return {{"waiting", waiting}};
  auto next = game.next(position, joint);
  if (!next) return {{"refused", next.diagnostics().items().front().message}};
  line.joints.push_back(joint);
  line.positions.push_back(*next);
  return nullptr;
}

Json sizes_json(const Game& game) {
  Json sizes = Json::array();
  for (const auto& [name, value] : GameAccess::core(game)->program().description().tree().sizes()) {
    sizes.push_back({{"name", name}, {"value", value}});
  }
  return sizes;
}

}  // namespace

Desk::Desk(std::string path, LoadOptions limits)
    : sizes_(limits.sizes), papers_(path), shelf_(path, std::move(limits)) {}

Json Desk::open() const {
  Json files = Json::object();
  for (const Paper& paper : papers_.all()) {
    files[paper.kind] = {{"path", paper.path}, {"text", paper.text}, {"stamp", paper.stamp}};
  }
  Json opponents = Json::array();
  for (const std::string& name : opponent_names())
    opponents.push_back(name.substr(0, name.find('[')));
  Json result = {{"files", files}, {"opponents", opponents}, {"sizes", sizes_}};
  const std::string kept = papers_.kept();
  if (!kept.empty()) {
    const Json unsaved = Json::parse(kept, nullptr, false);
    if (unsaved.is_object()) result["unsaved"] = unsaved;
  }
  return result;
}

Json Desk::save(const Json& request) {
  const auto there =
      papers_.save(text_of(request, "kind"), text_of(request, "text"), text_of(request, "stamp"));
  if (!there) return error(there.diagnostics().items().front().message);
  Json result = {{"stamp", there->stamp}};
  // Somebody else wrote it meanwhile.
  if (there->text != text_of(request, "text")) {
    result = {{"conflict", {{"text", there->text}, {"stamp", there->stamp}}}};
  }
  return result;
}

// Everything that the page shows of a text and a line of play.
Json Desk::look(const Json& request) {
  const std::shared_ptr<const Reading> reading = shelf_.read(sheet_of(request));
  Json result = {{"findings", findings_json(reading->findings)},
                 {"drawing_findings", findings_json(reading->drawing_findings)},
                 {"reads", reading->game.has_value()}};
  if (!reading->findings.empty()) {
    const Json fixes = fixes_json(papers_.path(), text_of(request, "rules"), reading->findings);
    for (std::size_t i = 0; i < fixes.size(); ++i) result["findings"][i]["fixes"] = fixes[i];
  }
  auto here = asked(shelf_, request);
  if (!here) return result;
  const Game& game = here->game();
  const Json refused = make_ply(game, request, here->line);
  if (refused.is_object()) result.update(refused);
  const Line& line = here->line;
  const Position& position = line.last();
  result["line"] = report::line_json(game, line);
  if (!here->broke.empty()) result["broke"] = here->broke;

  PictureFrame frame = picture::frame_of(game, position, picture::last_step(line));
  Json moves = Json::array();
  std::size_t count = 0;
  for (const Role& role : game.to_move(position)) {
    for (const Move& move : game.legal(position, role)) {
      if (++count > most_moves) break;
      frame.moves.push_back({role, move, count});
      moves.push_back({{"role", role.name()},
                       {"move", move.to_string()},
                       {"number", count},
                       {"words", words_of(move.term())}});
    }
  }
  result["moves"] = std::move(moves);
  result["all_listed"] = count <= most_moves;
  Json choosing = Json::array();
  Json roles = Json::array();
  for (const Role& role : game.roles()) {
    roles.push_back({{"name", role.name()}, {"chance", role.is_chance()}});
    if (!game.terminal(position) && game.legal(position, role).size() > 1) {
      choosing.push_back(role.name());
    }
  }
  result["roles"] = std::move(roles);
  result["choosing"] = std::move(choosing);
  Json to_move = Json::array();
  for (const Role& role : game.to_move(position)) to_move.push_back(role.name());
  result["to_move"] = std::move(to_move);
  result["over"] = game.terminal(position);
  if (game.terminal(position)) result["outcome"] = describe(game, outcome_of(game, position));
  result["goals"] = report::goals_json(game, position);
  result["sizes"] = sizes_json(game);
  result["relations"] = relations_json(game);
  result["hidden"] = game.has_hidden_information();
  SvgStyle style;
  style.places = true;
  style.turned = is_set(request, "turned");
  result["svg"] = reading->picture().svg({frame}, style);
  return result;
}

// The positions of a line as small pictures.
Json Desk::strip(const Json& request) {
  const auto here = asked(shelf_, request);
  if (!here) return unread();
  const Line& line = here->line;
  std::vector<PictureFrame> frames;
  const std::size_t first =
      line.positions.size() > most_in_strip ? line.positions.size() - most_in_strip : 0;
  for (std::size_t ply = first; ply < line.positions.size(); ++ply) {
    frames.push_back(
        picture::frame_of(here->game(), line.positions[ply], picture::step_to(line, ply)));
  }
  SvgStyle style;
  style.turned = is_set(request, "turned");
  return {{"first", first}, {"pictures", here->reading->picture().svg_each(frames, style)}};
}

Json Desk::opponent(const Json& request) {
  const auto here = asked(shelf_, request);
  if (!here) return unread();
  const Game& game = here->game();
  const Line& line = here->line;
  const Position& position = line.last();
  const auto role = game.role(text_of(request, "role"));
  if (!role) return error("there is no such role");
  const auto legal = game.legal(position, *role);
  if (game.terminal(position) || legal.empty()) return error("there is nothing to choose");
  const auto seed = static_cast<std::uint64_t>(number_of(request, "seed", 1, 1e9));
  const auto player = make_opponent(text_of(request, "who"), seed);
  if (!player) return error(player.diagnostics().items().front().message);
  std::optional<View> view;
  if (game.has_hidden_information()) {
    view.emplace(game, *role, line.positions.front());
    for (std::size_t ply = 0; ply < line.joints.size(); ++ply) {
      (void)view->advance(line.positions[ply], line.joints[ply]);
    }
  }
  Situation situation{game, *role, position, legal, line.joints.size(), {}, {}, nullptr, {}, {}};
  if (!line.joints.empty()) {
    situation.last_position = line.positions[line.positions.size() - 2];
    situation.own_last_move = line.joints.back()[*role];
  }
  if (view) situation.view = &*view;
  constexpr auto patience = std::chrono::seconds(static_cast<int>(longest_thought));
  situation.deadline = std::chrono::steady_clock::now() + patience;
  return {{"move", (*player)->choose(situation).to_string()}};
}

// Starts work in the background for a page.
Json Desk::begin(const Json& request) {
  const auto here = asked(shelf_, request);
  if (!here) return unread();
  const std::string what = text_of(request, "what");
  Background::Work work = work_of(*here, request);
  if (!work) return error("there is no work called " + what);
  const double seconds = number_of(request, "seconds", usual_work, longest_work);
  background_.begin(text_of(request, "page"), what, seconds, std::move(work));
  return {{"begun", what}};
}

Json Desk::answer_window(const std::string& token, const std::string& verb, const Json& request) {
  if (verb == "look") return table_.look(token, request);
  if (verb == "choose") return table_.choose(token, request);
  return error("a seat does not know " + verb);
}

Json Desk::answer(const std::string& verb, const Json& request) {
  if (verb == "open") return open();
  if (verb == "save") return save(request);
  if (verb == "keep") {
    papers_.keep(text_of(request, "text"));
    return Json::object();
  }
  if (verb == "look") return look(request);
  if (verb == "strip") return strip(request);
  if (verb == "opponent") return opponent(request);
  if (verb == "begin") return begin(request);
  if (verb == "work") return background_.look(text_of(request, "page"), text_of(request, "what"));
  if (verb == "stop") {
    background_.stop(text_of(request, "page"), text_of(request, "what"));
    return Json::object();
  }
  if (verb == "insight") return insight(shelf_, papers_.path(), request);
  if (verb == "completions") return completions(shelf_, papers_.path(), request);
  if (verb == "rename") return renaming(papers_.path(), request);
  if (verb == "table") {
    const auto here = asked(shelf_, request);
    return here ? table_.set(*here, request) : unread();
  }
  const std::pair<std::string_view, Json (*)(const Asked&, const Json&)> questions[] = {
      {"why", why},     {"refusal", refusal}, {"relation", relation},
      {"cases", cases}, {"effect", effect},   {"position", position_text}};
  for (const auto& [name, answer] : questions) {
    if (name != verb) continue;
    const auto here = asked(shelf_, request);
    return here ? answer(*here, request) : unread();
  }
  return error("the desk does not know " + verb);
}

}  // namespace orchard::desk
