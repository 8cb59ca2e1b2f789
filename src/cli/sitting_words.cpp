// What can be typed in a sitting.
#include <fmt/core.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "base/file.hpp"
#include "base/option_table.hpp"
#include "cli/effects.hpp"
#include "cli/move_input.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "cli/seats.hpp"
#include "cli/sitting.hpp"
#include "orchard/cases.hpp"
#include "orchard/explain.hpp"

namespace orchard::cli {
namespace {

// The words of the prompt, each with what it does, within 100 columns.
std::string word_help() {
  constexpr std::size_t indent = 19;
  constexpr std::size_t width = 100;
  std::string text;
  for (const PromptFacts& facts : prompt_table()) {
    std::string line = fmt::format(
        "   {:<{}}",
        fmt::format("{}{}{}", facts.word, facts.word.empty() ? "" : " ", facts.arguments),
        indent - 3);
    std::istringstream does{std::string(facts.does)};
    for (std::string word; does >> word;) {
      if (line.size() + 1 + word.size() > width) {
        text += line + "\n";
        line.assign(indent, ' ');
      }
      line += (line.back() == ' ' ? "" : " ") + word;
    }
    text += line + "\n";
  }
  return text;
}

// What follows the first word of a line as it was typed: a file name keeps its capitals.
std::string rest_of(std::string_view line) {
  constexpr std::string_view blank = " \t\r";
  const auto skip = [&](std::size_t at) { line.remove_prefix(std::min(at, line.size())); };
  skip(line.find_first_not_of(blank));
  skip(line.find_first_of(blank));
  skip(line.find_first_not_of(blank));
  return std::string(line.substr(0, line.find_last_not_of(blank) + 1));
}

}  // namespace

// An illegal move gets its reason in one line, where telling it gives nothing away.
void Sitting::say_not_understood(const Role& role, const std::string& line,
                                 const std::vector<Move>& legal) {
  constexpr std::size_t most = 20;
  std::string list;
  for (std::size_t i = 0; i < std::min(most, legal.size()); ++i) {
    list += " " + legal[i].to_string();
  }
  if (legal.size() > most) list += fmt::format(" … ({} in all; `moves` lists them)", legal.size());
  std::string reason;
  const bool place = line.starts_with("at ") || (line.front() >= '0' && line.front() <= '9');
  const bool bare = line.front() != '(' && line.find(' ') != std::string::npos;
  const std::string move = place  ? move_like_others(role, legal, line)
                           : bare ? "(" + line + ")"
                                  : line;
  const auto question = Question::parse(game_, fmt::format("legal {} {}", role.name(), move));
  if (!move.empty() && question && question->atom.is_ground() && !keeps_secrets()) {
    const auto answer = orchard::why(game_, Circumstances{match_.position()}, *question);
    if (answer && !answer->holds) reason = fmt::format("   {}\n", answer->in_one_line());
  }
  print(
      "   {} is not legal for {} here, and nothing has changed.\n{}   legal:{}\n"
      "   `help` lists what else can be typed\n",
      line, role.name(), reason, list);
}

namespace {

// "2 3" of "2 3", "2,3" or "at 2 3".
std::string place_in(std::string line) {
  if (line.starts_with("at ")) line.erase(0, 3);
  std::ranges::replace(line, ',', ' ');
  return tidied(line);
}

}  // namespace

// The move that a place would stand for if it were written like the others, such as (tie 2 3) where
// (tie 1 1) is shown at 1 1; empty if they are not written that way.
std::string Sitting::move_like_others(const Role& role, const std::vector<Move>& legal,
                                      const std::string& line) const {
  PictureFrame frame{match_.position()};
  for (std::size_t i = 0; i < legal.size(); ++i) frame.moves.push_back({role, legal[i], i});
  for (const auto& [number, places] : picture_.places(frame)) {
    const std::string text = legal[number].to_string();
    for (const std::string& place : places) {
      const std::string end = " " + place + ")";
      if (text.ends_with(end) && text.find(' ') == text.size() - end.size()) {
        return text.substr(0, text.size() - end.size()) + " " + place_in(line) + ")";
      }
    }
  }
  return {};
}

// The legal moves that are shown at a place.
std::vector<Move> Sitting::moves_at(const Role& role, const std::vector<Move>& legal,
                                    std::string place) const {
  place = place_in(place);
  PictureFrame frame{match_.position()};
  for (std::size_t i = 0; i < legal.size(); ++i) frame.moves.push_back({role, legal[i], i});
  std::vector<Move> result;
  for (const auto& [number, places] : picture_.places(frame)) {
    if (std::ranges::find(places, place) != places.end()) result.push_back(legal[number]);
  }
  return result;
}

std::vector<std::string> Sitting::completions(const Role& role,
                                              const std::vector<Move>& legal) const {
  std::vector<std::string> result;
  for (const PromptFacts& facts : prompt_table()) {
    if (facts.word.empty()) continue;
    result.push_back(std::string(facts.word) + (facts.arguments.empty() ? "" : " "));
  }
  for (const Move& move : legal) {
    const std::string text = move.to_string();
    result.push_back(text);
    if (text.front() == '(') result.push_back(text.substr(1, text.size() - 2));
    result.push_back(fmt::format("why legal {} {}", role.name(), text));
    result.push_back(fmt::format("effects {}", text));
  }
  for (const Role& other : game_.roles()) result.push_back(fmt::format("view {}", other.name()));
  result.emplace_back("why terminal");
  return result;
}

// The move that a person chooses; none if a word ended the turn.
std::optional<Move> Sitting::ask(const Role& role, const std::vector<Move>& legal, Turn& turn) {
  std::string begun;  // of a move that is typed step by step
  const std::vector<std::string> offered = completions(role, legal);
  // A number means the one in the list, which goes through all roles that are shown.
  std::size_t first_number = 1;
  if (seen_.empty()) {
    for (const Role& other : game_.to_move(match_.position())) {
      if (other == role) break;
      first_number += game_.legal(match_.position(), other).size();
    }
  }
  while (true) {
    const std::string_view draws = role.is_chance() ? " (Enter draws)" : "";
    const std::string prompt = begun.empty() ? fmt::format("{}{}> ", called(role), draws)
                                             : fmt::format("{}> {} ", called(role), begun);
    const auto typed = input_.read(prompt, offered);
    if (!typed) {
      turn = Turn::quit;
      return std::nullopt;
    }
    std::string line = tidied(*typed);
    if (line.empty()) {
      turn = Turn::played;
      if (role.is_chance() && begun.empty()) return legal[drawn_.below(legal.size())];
      begun.clear();
      continue;
    }
    turn = Turn::played;
    if (!begun.empty()) {
      const TypedMove further = typed_move(begun + " " + line, legal);
      if (further.move) return further.move;
      if (!further.candidates.empty()) line = begun + " " + line;
    }
    begun.clear();
    if (auto move = whole_move(line, legal)) return move;
    if (do_word(*typed, turn)) {
      if (turn != Turn::played) return std::nullopt;
      continue;
    }
    TypedMove result = typed_move(line, legal, first_number);
    // On a board whose places are numbered a number may mean either.
    const std::vector<Move> there =
        result.by_number ? moves_at(role, legal, line) : std::vector<Move>{};
    if (result.move && !there.empty() && there != std::vector{*result.move}) {
      print(
          "   {0} is the number of {1} in the list, and the place of {2} on the board: type "
          "#{0} for the one in the list, at {0} for the place\n",
          line, result.move->to_string(), there.front().to_string());
      continue;
    }
    if (result.move) return result.move;
    const bool by_place = result.candidates.empty();
    if (by_place) result.candidates = moves_at(role, legal, line);
    if (result.candidates.size() == 1) return result.candidates.front();
    if (result.candidates.empty()) {
      say_not_understood(role, line, legal);
      continue;
    }
    print("   {} {} several:", line, by_place ? "shows" : "is the beginning of");
    for (const Move& move : result.candidates) print(" {}", move.to_string());
    print("\n");
    if (!by_place) begun = line;
  }
}

// Does what a word of the sitting says; false if it is none.
bool Sitting::do_word(const std::string& typed, Turn& turn) {
  const std::string line = tidied(typed);
  const std::string word = line.substr(0, line.find(' '));
  const std::string rest = rest_of(typed);
  if (line == "help") {
    print("{}", word_help());
  } else if (line == "moves") {
    if (seen_.size() > 1 && looking_) {
      print_view(game_.roles()[*looking_]);
    } else {
      print_page(true);
    }
  } else if (word == "effects") {
    say_effects(tidied(rest));
  } else if (word == "why") {
    say_why(tidied(rest));
  } else if (word == "view") {
    show_view(tidied(rest));
  } else if (word == "name") {
    give_name(rest);
  } else if (line == "undo") {
    undo();
    turn = Turn::again_asked;
  } else if (line == "redo") {
    redo();
    turn = Turn::again_asked;
  } else if (line == "again") {
    begin_again();
    turn = Turn::again_asked;
  } else if (line == "new") {
    begin_new_match();
    turn = Turn::again_asked;
  } else if (line == "quit") {
    turn = Turn::quit;
  } else if (word == "case") {
    write_case(rest);
  } else if (word == "save") {
    save(rest);
  } else if (word == "resume") {
    if (resume(rest)) turn = Turn::again_asked;
  } else {
    return false;
  }
  return true;
}

void Sitting::write_case(const std::string& name) {
  if (name.empty()) {
    say("say what the case shows: case \"the corners win\"\n");
    return;
  }
  std::string plain = name;
  std::erase(plain, '"');
  const std::string file = std::filesystem::path(call_.game).replace_extension(".cases").string();
  std::string text;
  if (std::ifstream before(file, std::ios::binary); before) {
    text.assign(std::istreambuf_iterator<char>(before), {});
    if (!text.empty()) text += text.ends_with('\n') ? "\n" : "\n\n";
  }
  const Line line{match_.positions(), match_.joints()};
  const std::string written = case_of_line(game_, plain, line);
  const Diagnostics faults = write_whole_file(file, text + written);
  say(faults.empty() ? fmt::format("added to {}:\n{}", file, written) : faults.render());
}

// "east Ada Byron"
void Sitting::give_name(const std::string& role_and_name) {
  const std::string role = tidied(role_and_name.substr(0, role_and_name.find(' ')));
  const std::string name = rest_of(role_and_name);
  if (role.empty() || !game_.role(role)) {
    std::string roles;
    for (const Role& one : game_.roles()) roles += (roles.empty() ? "" : ", ") + one.name();
    say(fmt::format("   write name ROLE NAME; the roles are {}\n", roles));
    return;
  }
  if (const auto fault = fault_in_name(name)) {
    say(fmt::format("   {}\n", fault->message));
    return;
  }
  players_.erase(role);
  if (!name.empty()) players_[role] = name;
  say(fmt::format("   {} plays {}\n", called(*game_.role(role)), role));
}

void Sitting::undo() {
  if (!match_.undo()) {
    say("   this is the start; there is nothing to take back\n");
    return;
  }
  while (!person_chooses() && match_.undo()) continue;
  begin_views();
  if (counted_) score_ = score_before_;
  counted_ = false;
  say(fmt::format("   back at ply {}\n", match_.ply()));
}

void Sitting::redo() {
  if (!match_.redo()) {
    say("   there is nothing to redo\n");
    return;
  }
  while (!match_.over() && !person_chooses() && match_.redo()) continue;
  begin_views();
  say(fmt::format("   redone up to ply {}\n", match_.ply()));
}

void Sitting::begin_again() {
  score_before_ = score_;
  counted_ = false;
  match_.begin_again();
  begin_views();
  say("   a new game\n");
}

void Sitting::begin_new_match() {
  for (Tally& line : score_.lines) line = {};
  players_.clear();
  begin_again();
  say("   the score starts again from zero\n");
}

void Sitting::save(const std::string& file) {
  if (file.empty()) {
    print("   save where? write: save FILE\n");
    return;
  }
  const Diagnostics faults = write_whole_file(file, to_json_lines(head_of_record(), match_));
  if (faults.empty()) {
    print("   saved to {}\n", file);
  } else {
    print("{}", faults.render());
  }
}

// Goes on with a saved match; who sits where stays as it is.
bool Sitting::resume(const std::string& file) {
  if (file.empty()) {
    print("   which file? write: resume FILE\n");
    return false;
  }
  const auto record = read_record(file);
  auto match = record ? replay(game_, *record) : Result<Match>(record.diagnostics());
  if (!match) {
    print("{}", match.diagnostics().render());
    return false;
  }
  match_ = *match;
  fresh_.clear();
  if (record->score.size() == score_.lines.size()) score_.lines = record->score;
  score_before_ = score_;
  counted_ = false;
  begin_views();
  say(fmt::format("   going on at ply {} of {}\n", match_.ply(), file));
  return true;
}

void Sitting::say_why(const std::string& question) {
  if (keeps_secrets()) {
    print("   reasons could give away what others hold; they are shown when the game is over\n");
    return;
  }
  const std::string asked = question.empty() ? std::string("terminal") : question;
  const auto parsed = Question::parse(game_, asked);
  Circumstances here{match_.position()};
  here.earlier.assign(match_.positions().begin(), match_.positions().end() - 1);
  here.joints = match_.joints();
  const auto answer =
      parsed ? orchard::why(game_, here, *parsed) : Result<Explanation>(parsed.diagnostics());
  if (answer) {
    print("{}", answer->text(call_.style().unicode));
  } else {
    print("{}", answer.diagnostics().render());
  }
}

void Sitting::say_effects(const std::string& wanted) {
  if (keeps_secrets()) {
    print("   effects could give away what others hold\n");
    return;
  }
  std::size_t told = 0;
  for (const NumberedMove& move :
       numbered_moves(game_, match_.position(), game_.to_move(match_.position()))) {
    const std::string text = move.move.to_string();
    const bool meant = wanted.empty() || text == wanted || text == "(" + wanted + ")" ||
                       std::to_string(move.number) == wanted;
    if (!meant || match_.over()) continue;
    ++told;
    print("   {} {}: {}\n", move.number, text, effect_of(game_, match_.position(), move));
  }
  if (told == 0) print("   {} is not a legal move here\n", wanted.empty() ? "there" : wanted);
}

// Of a player's own eyes, what follows is worked out on request only: to find it out is the game.
void Sitting::show_view(const std::string& name) {
  const bool of_looker = name.empty() && (looking_ || seen_.size() == 1);
  const auto role =
      of_looker ? game_.roles()[looking_.value_or(seen_.begin()->first)] : game_.role(name);
  if (!role) {
    print("   {} is not a role; write: view ROLE\n", name.empty() ? "that" : name);
    return;
  }
  const auto seen = seen_.find(role->index());
  const bool own = seen != seen_.end() && (seen_.size() == 1 || looking_ == role->index());
  if (keeps_secrets() && !own) {
    print("   that is for {} to see\n", called(*role));
    return;
  }
  View view = own ? seen->second.view : fresh_view(game_, *role, match_.start());
  for (std::uint64_t ply = view.steps().size(); ply < match_.ply(); ++ply) {
    (void)view.advance(match_.positions()[ply], match_.joints()[ply]);
  }
  print("\n{}\n", view_page(game_, picture_, view, Insight::deduced, match_.position(),
                            match_.ply(), page_style(), false, 0));
}

}  // namespace orchard::cli
