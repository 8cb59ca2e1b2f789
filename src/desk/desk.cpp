#include "desk/desk.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <chrono>
#include <set>

#include "game/core.hpp"
#include "orchard/cases.hpp"
#include "orchard/explain.hpp"
#include "orchard/match.hpp"
#include "orchard/opponent.hpp"
#include "orchard/playouts.hpp"
#include "orchard/random.hpp"
#include "orchard/review.hpp"
#include "orchard/solve.hpp"
#include "picture/face/frames.hpp"
#include "report/json.hpp"

namespace orchard::desk {
namespace {

constexpr std::size_t most_moves = 2000;   // listed one by one
constexpr std::size_t most_rows = 2000;    // of a relation
constexpr double longest_check = 600;      // seconds
constexpr double longest_thought = 10;     // of an opponent, or of a solution in a position
constexpr std::size_t most_in_strip = 60;  // pictures of a line

Json error(const std::string& text) {
  return {{"error", text}};
}

std::string text_of(const Json& request, const char* name) {
  const auto found = request.find(name);
  return found != request.end() && found->is_string() ? found->get<std::string>() : std::string();
}

double number_of(const Json& request, const char* name, double otherwise, double most) {
  const auto found = request.find(name);
  if (found == request.end() || !found->is_number()) return otherwise;
  return std::clamp(found->get<double>(), 0.0, most);
}

bool is_set(const Json& request, const char* name) {
  const auto found = request.find(name);
  return found != request.end() && found->is_boolean() && found->get<bool>();
}

Sheet sheet_of(const Json& request) {
  Sheet sheet{text_of(request, "rules"), text_of(request, "drawing"), {}};
  const auto sizes = request.find("sizes");
  if (sizes == request.end() || !sizes->is_object()) return sheet;
  for (const auto& [name, value] : sizes->items()) {
    if (value.is_number_integer()) sheet.sizes[name] = value.get<std::int64_t>();
  }
  return sheet;
}

// The names in a term, from the left: go, 2, 3 of (go 2 3).
void add_words(const Term& term, std::vector<std::string>& words) {
  words.emplace_back(term.name());
  for (const Term& argument : term.arguments()) add_words(argument, words);
}

Json words_of(const Term& term) {
  std::vector<std::string> words;
  add_words(term, words);
  return words;
}

// Diagnostics with all that the editor underlines.
Json findings_json(const Diagnostics& diagnostics) {
  Json list = report::document_of(diagnostics);
  std::size_t at = 0;
  for (const Diagnostic& item : diagnostics) list[at++]["width"] = item.place.width;
  return list;
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

}  // namespace

// What a request is about: the text as it was read, and the line as far as it can be played.
struct Desk::Asked {
  std::shared_ptr<const Reading> reading;
  std::optional<Line> line;
  std::string broke;  // why the line could not be played to its end

  const Game& game() const { return *reading->game; }
};

namespace {

std::optional<JointMove> joint_of(const Game& game, const Json& ply) {
  if (!ply.is_object()) return std::nullopt;
  JointMove joint;
  for (const Role& role : game.roles()) {
    const auto move = ply.find(role.name());
    if (move == ply.end() || !move->is_string()) return std::nullopt;
    const auto term = Term::parse(move->get<std::string>());
    if (!term) return std::nullopt;
    joint.add(game.move(*term));
  }
  return joint;
}

// Plays the line of a request as far as it goes.
Line played(const Game& game, const Json& request, std::string& broke) {
  Line line{{game.initial()}, {}};
  const auto plies = request.find("line");
  if (plies == request.end() || !plies->is_array()) return line;
  for (const Json& ply : *plies) {
    end_if_interrupted();
    const auto joint = joint_of(game, ply);
    if (!joint) {
      broke = fmt::format("ply {} is no move of each role", line.joints.size() + 1);
      return line;
    }
    auto next = game.next(line.last(), *joint);
    if (!next) {
      broke = fmt::format("ply {} cannot be played any more: {}", line.joints.size() + 1,
                          next.diagnostics().items().front().message);
      return line;
    }
    line.joints.push_back(*joint);
    line.positions.push_back(*next);
  }
  return line;
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
    } else if (role.is_chance() && !legal.empty()) {
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

Desk::Desk(std::string path, LoadOptions limits) : papers_(path), shelf_(path, std::move(limits)) {}

Json Desk::open() const {
  Json files = Json::object();
  for (const Paper& paper : papers_.all()) {
    files[paper.kind] = {{"path", paper.path}, {"text", paper.text}, {"stamp", paper.stamp}};
  }
  Json opponents = Json::array();
  for (const std::string& name : opponent_names())
    opponents.push_back(name.substr(0, name.find('[')));
  Json result = {{"files", files}, {"opponents", opponents}};
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
  Asked asked{shelf_.read(sheet_of(request)), std::nullopt, {}};
  Json result = {{"findings", findings_json(asked.reading->findings)},
                 {"drawing_findings", findings_json(asked.reading->drawing_findings)},
                 {"reads", asked.reading->game.has_value()}};
  if (!asked.reading->game) return result;
  const Game& game = asked.game();
  asked.line = played(game, request, asked.broke);
  const Json refused = make_ply(game, request, *asked.line);
  if (refused.is_object()) result.update(refused);
  const Line& line = *asked.line;
  const Position& position = line.last();
  result["line"] = report::line_json(game, line);
  if (!asked.broke.empty()) result["broke"] = asked.broke;

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
  result["svg"] = asked.reading->picture->svg({frame}, style);
  result["position"] = position.to_string();
  return result;
}

// The positions of a line as small pictures.
Json Desk::strip(const Json& request) {
  const auto reading = shelf_.read(sheet_of(request));
  if (!reading->game) return error("the description does not read");
  std::string broke;
  const Line line = played(*reading->game, request, broke);
  std::vector<PictureFrame> frames;
  const std::size_t first =
      line.positions.size() > most_in_strip ? line.positions.size() - most_in_strip : 0;
  for (std::size_t ply = first; ply < line.positions.size(); ++ply) {
    frames.push_back(
        picture::frame_of(*reading->game, line.positions[ply], picture::step_to(line, ply)));
  }
  SvgStyle style;
  style.turned = is_set(request, "turned");
  return {{"first", first}, {"pictures", reading->picture->svg_each(frames, style)}};
}

Json Desk::opponent(const Json& request) {
  const auto reading = shelf_.read(sheet_of(request));
  if (!reading->game) return error("the description does not read");
  const Game& game = *reading->game;
  std::string broke;
  const Line line = played(game, request, broke);
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

namespace {

Circumstances circumstances_of(const Line& line) {
  Circumstances here{line.last()};
  here.earlier.assign(line.positions.begin(), line.positions.end() - 1);
  here.joints = line.joints;
  return here;
}

Json places_of(const Explanation& explanation) {
  Json places = Json::array();
  std::set<int> lines;
  for (const Reason& reason : explanation.reasons) {
    if (reason.place.line > 0 && lines.insert(reason.place.line).second) {
      places.push_back(reason.place.line);
    }
  }
  return places;
}

}  // namespace

Json Desk::why(const Json& request) {
  const auto reading = shelf_.read(sheet_of(request));
  if (!reading->game) return error("the description does not read");
  std::string broke;
  const Line line = played(*reading->game, request, broke);
  const auto question = Question::parse(*reading->game, text_of(request, "question"));
  if (!question) return error(question.diagnostics().items().front().message);
  Circumstances here = circumstances_of(line);
  auto explanation = orchard::why(*reading->game, here, *question);
  const bool needs_move =
      !explanation && explanation.diagnostics().items().front().code == "needs-a-move";
  if (needs_move && !line.joints.empty()) {
    // Asked of the step that led here.
    here.position = here.earlier.back();
    here.joint = here.joints.back();
    explanation = orchard::why(*reading->game, here, *question);
  }
  if (!explanation) return error(explanation.diagnostics().items().front().message);
  return {{"holds", explanation->holds},
          {"text", explanation->text()},
          {"in_one_line", explanation->in_one_line()},
          {"lines", places_of(*explanation)}};
}

namespace {

// Whether the words stand behind one another in a move.
bool mentions(const std::vector<std::string>& move, const std::vector<std::string>& words) {
  return std::search(move.begin() + 1, move.end(), words.begin(), words.end()) != move.end();
}

std::vector<std::string> split(const std::string& words) {
  std::vector<std::string> result;
  for (std::size_t at = 0; at < words.size();) {
    const std::size_t end = std::min(words.find(' ', at), words.size());
    if (end > at) result.push_back(words.substr(at, end - at));
    at = end + 1;
  }
  return result;
}

}  // namespace

// Why no move of a role can be made at the places that were clicked: of those that the rules
// foresee there the one that comes nearest.
Json Desk::refusal(const Json& request) {
  const auto reading = shelf_.read(sheet_of(request));
  if (!reading->game) return error("the description does not read");
  const Game& game = *reading->game;
  std::string broke;
  const Line line = played(game, request, broke);
  const Position& position = line.last();
  if (game.terminal(position)) return {{"sentence", "The game is over."}};
  const auto role = game.role(text_of(request, "role"));
  if (!role) return error("there is no such role");
  std::vector<std::vector<std::string>> places;
  const auto named = request.find("places");
  if (named != request.end() && named->is_array()) {
    for (const Json& place : *named) {
      if (place.is_string()) places.push_back(split(place.get<std::string>()));
    }
  }
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (lanes == nullptr) return {{"sentence", "No move is legal there."}};
  std::vector<Term> foreseen;
  for (const auto& named_move : lanes->ground().moves()[role->index()]) {
    const Term move = lanes->ground().terms().term(named_move.term);
    std::vector<std::string> words;
    add_words(move, words);
    const bool fits = std::ranges::all_of(
        places, [&](const std::vector<std::string>& place) { return mentions(words, place); });
    if (fits) foreseen.push_back(move);
  }
  constexpr std::size_t few = 8;
  if (foreseen.empty()) return {{"sentence", "No rule makes a move there."}};
  if (foreseen.size() > few) {
    return {{"sentence", "No legal move there now; choose a second place to ask why not."}};
  }
  for (const Term& move : foreseen) {
    const std::string text = fmt::format("(legal {} {})", role->name(), move.to_string());
    const auto question = Question::parse(game, text);
    if (!question) continue;
    const auto explanation = orchard::why(game, circumstances_of(line), *question);
    if (!explanation || explanation->holds) continue;
    return {{"sentence",
             fmt::format("{} is not legal: {}", move.to_string(), explanation->in_one_line())},
            {"question", text},
            {"lines", places_of(*explanation)}};
  }
  return {{"sentence", "No legal move there now."}};
}

// What holds of a relation now.
Json Desk::relation(const Json& request) {
  const auto reading = shelf_.read(sheet_of(request));
  if (!reading->game) return error("the description does not read");
  const Game& game = *reading->game;
  std::string broke;
  const Line line = played(game, request, broke);
  const std::string name = text_of(request, "name");
  const std::size_t slash = name.rfind('/');
  const auto arity =
      slash == std::string::npos ? std::nullopt : Term::constant(name.substr(slash + 1)).number();
  if (!arity || *arity < 0) return error("name a relation and its arguments, as in line/2");
  const GameCore& core = *GameAccess::core(game);
  const auto relation =
      core.program().description().find(name.substr(0, slash), static_cast<std::uint32_t>(*arity));
  if (!relation) return error("there is no relation " + name);
  Json rows = Json::array();
  bool all = true;
  try {
    GameCore::Lease evaluator(core, true);
    evaluator->set_position(GameAccess::state(line.last()).fluents());
    const logic::Table& table = evaluator->reference().instances(*relation);
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      if (rows.size() == most_rows) {
        all = false;
        break;
      }
      std::vector<std::string> words;
      for (std::uint32_t a = 0; a < table.arity(); ++a) {
        add_words(core.terms().term(table.row(row)[a]), words);
      }
      rows.push_back(words);
    }
  } catch (const logic::LimitExceeded& limit) {
    return error(core.too_large(limit).message);
  }
  return {{"rows", rows}, {"all", all}};
}

Json Desk::cases(const Json& request) {
  const auto reading = shelf_.read(sheet_of(request));
  if (!reading->game) return error("the description does not read");
  const Picture& picture = *reading->picture;
  CaseOptions options;
  options.reader = [&](const std::string& drawing, const std::vector<Term>& fluents) {
    return picture.read_drawn(drawing, fluents);
  };
  const auto results = run_cases_of_text(*reading->game, text_of(request, "cases"), options);
  if (!results) return {{"findings", findings_json(results.diagnostics())}};
  Json list = Json::array();
  for (const CaseResult& result : *results) {
    Json& entry = list.emplace_back();
    entry = {{"name", result.name}, {"line", result.place.line}, {"passed", result.passed()}};
    for (const CaseFailure& failure : result.failures) {
      entry["failures"].push_back(
          {{"line", failure.place.line}, {"expected", failure.expected}, {"found", failure.found}});
    }
    if (!result.passed() && result.position) {
      PictureFrame frame{*result.position};
      entry["svg"] = picture.svg({frame});
    }
  }
  return {{"cases", list}};
}

namespace {

Json checked(const Reading& reading, const std::string& claims, Budget budget) {
  ReviewOptions options;
  options.budget = std::move(budget);
  if (!claims.empty()) options.claims_text = claims;
  const auto review = review_rules(*reading.game, options);
  if (!review) return {{"findings", findings_json(review.diagnostics())}};
  return report::document_of(*reading.game, *review);
}

Json sought(const Reading& reading, const std::string& formula, Budget budget) {
  ReviewOptions options;
  options.budget = std::move(budget);
  const auto found = find_position(*reading.game, formula, options);
  if (!found) return error(found.diagnostics().items().front().message);
  return report::document_of(*reading.game, *found);
}

Json random_games(const Reading& reading, const Position& from, Budget budget) {
  PlayoutOptions options;
  options.from = from;
  options.budget = std::move(budget);
  const auto statistics = run_playouts(*reading.game, options);
  if (!statistics) return error(statistics.diagnostics().items().front().message);
  return report::document_of(*reading.game, *statistics);
}

// What each legal move of whoever chooses is worth under best play.
Json values_of_moves(const Reading& reading, const Position& position, Budget budget) {
  const Game& game = *reading.game;
  SolveOptions options;
  options.budget = std::move(budget);
  options.from = position;
  options.way = SolveOptions::Way::all;
  const auto solution = solve(game, options);
  if (!solution) return error(solution.diagnostics().items().front().message);
  if (!solution->complete()) return {{"unsolved", solution->reason()}};
  Json values = Json::array();
  for (const Role& role : game.to_move(position)) {
    for (const Move& move : game.legal(position, role)) {
      const auto joint = game.joint_move(position, role, move);
      if (!joint) return {{"unsolved", "roles choose at once here"}};
      const auto next = game.next(position, *joint);
      const auto value = next ? solution->value(*next, role) : std::nullopt;
      if (value) {
        values.push_back({{"role", role.name()}, {"move", move.to_string()}, {"value", *value}});
      }
    }
  }
  return {{"values", values}};
}

}  // namespace

// Starts work in the background for a page.
Json Desk::begin(const Json& request) {
  const auto reading = shelf_.read(sheet_of(request));
  if (!reading->game) return error("the description does not read");
  const std::string what = text_of(request, "what");
  const std::string page = text_of(request, "page");
  const double seconds = number_of(request, "seconds", longest_thought, longest_check);
  std::string broke;
  const Position here = played(*reading->game, request, broke).last();
  Background::Work work;
  if (what == "check") {
    work = [reading, claims = text_of(request, "claims")](Budget budget) {
      return checked(*reading, claims, std::move(budget));
    };
  } else if (what == "find") {
    work = [reading, formula = text_of(request, "formula")](Budget budget) {
      return sought(*reading, formula, std::move(budget));
    };
  } else if (what == "games") {
    work = [reading, here](Budget budget) {
      return random_games(*reading, here, std::move(budget));
    };
  } else if (what == "values") {
    work = [reading, here](Budget budget) {
      return values_of_moves(*reading, here, std::move(budget));
    };
  } else {
    return error("there is no work called " + what);
  }
  background_.begin(page, what, seconds, std::move(work));
  return {{"begun", what}};
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
  if (verb == "why") return why(request);
  if (verb == "refusal") return refusal(request);
  if (verb == "relation") return relation(request);
  if (verb == "cases") return cases(request);
  if (verb == "begin") return begin(request);
  if (verb == "work") return background_.look(text_of(request, "page"), text_of(request, "what"));
  if (verb == "stop") {
    background_.stop(text_of(request, "page"), text_of(request, "what"));
    return Json::object();
  }
  return error("the desk does not know " + verb);
}

}  // namespace orchard::desk
