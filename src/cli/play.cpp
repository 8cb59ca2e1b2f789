// A sitting at the terminal: any number of games, one after another, between people and opponents.
#include <fmt/core.h>
#include <unistd.h>

#include <algorithm>
#include <iostream>

#include "base/file.hpp"
#include "base/similar.hpp"
#include "cli/call.hpp"
#include "cli/move_input.hpp"
#include "cli/page.hpp"
#include "orchard/match.hpp"
#include "orchard/random.hpp"
#include "orchard/record.hpp"

namespace orchard::cli {
namespace {

constexpr std::string_view word_help =
    "   a move        as a term (tie 1 2), its number, or as much of it as is unique\n"
    "   moves         the board and the legal moves again\n"
    "   undo          takes back to the last choice of a person\n"
    "   again         a new game; the score goes on\n"
    "   save FILE     writes the match down; --resume FILE goes on with it\n"
    "   quit          ends the sitting\n";

// What follows the first word of a line as it was typed: a file name keeps its capitals.
std::string rest_of(std::string_view line) {
  constexpr std::string_view blank = " \t\r";
  const auto skip = [&](std::size_t at) { line.remove_prefix(std::min(at, line.size())); };
  skip(line.find_first_not_of(blank));
  skip(line.find_first_of(blank));
  skip(line.find_first_not_of(blank));
  return std::string(line.substr(0, line.find_last_not_of(blank) + 1));
}

class Sitting {
 public:
  Sitting(const Call& call, const Game& game, Picture picture, Match match)
      : call_(call),
        game_(game),
        picture_(std::move(picture)),
        match_(std::move(match)),
        style_(call.style()) {
    score_.lines.resize(game.roles().size());
    score_before_ = score_;
  }

  Diagnostics take_seats(const MatchRecord& record);
  Status run();

 private:
  enum class Turn { played, again_asked, quit };

  void print_page();
  void print_view(const Role& role);
  void begin_views();
  void show_to(const Role& role);
  Diagnostics assign(const std::string& option, const std::map<std::string, std::string>& before,
                     std::map<std::string, std::string>& result) const;
  bool is_person(const Role& role) const { return opponents_[role.index()] == nullptr; }
  bool any_person() const {
    return std::ranges::any_of(game_.roles(), [&](const Role& role) { return is_person(role); });
  }
  bool person_chooses() const;
  std::optional<std::string> read_line(const std::string& prompt);
  Turn play_ply();
  std::optional<Move> ask(const Role& role, const std::vector<Move>& legal, Turn& turn);
  bool do_word(const std::string& line, Turn& turn);
  void say_not_understood(const Role& role, const std::string& line,
                          const std::vector<Move>& legal) const;
  void undo();
  void begin_again();
  void save(const std::string& file) const;
  Turn after_the_end();
  void count_result();
  std::string called(const Role& role) const;

  const Call& call_;
  const Game& game_;
  Picture picture_;
  Match match_;
  TextStyle style_;
  std::map<std::string, std::string> seats_;
  std::map<std::string, std::string> players_;
  std::vector<std::unique_ptr<Opponent>> opponents_;  // by role; null for a person
  // With hidden information: what each person knows, by role, and the ply up to which it was shown.
  struct Seen {
    View view;
    std::uint64_t shown = 0;
  };
  std::map<std::size_t, Seen> seen_;
  std::optional<std::size_t> looking_;  // the person the screen was last shown to, if several play
  Score score_;
  Score score_before_;  // without the game being played
  std::uint64_t games_counted_ = 0;
  bool counted_ = false;  // the game being played is in `score_`
};

// ROLE=VALUE options over what a record says.
Diagnostics Sitting::assign(const std::string& option,
                            const std::map<std::string, std::string>& before,
                            std::map<std::string, std::string>& result) const {
  result = before;
  Diagnostics faults;
  std::vector<std::string> roles;
  for (const Role& role : game_.roles()) roles.push_back(role.name());
  for (const std::string& text : call_.texts(option)) {
    const std::size_t equals = text.find('=');
    std::string role = tidied(text.substr(0, equals));
    if (equals == std::string::npos || std::ranges::find(roles, role) == roles.end()) {
      std::string list;
      for (const std::string& name : roles) list += (list.empty() ? "" : ", ") + name;
      const auto meant = most_similar(role, roles);
      faults.add(
          plain_error("wrong-call", fmt::format("--{} {} names no role", option, text),
                      meant ? fmt::format("did you mean {}?", *meant)
                            : fmt::format("write --{} ROLE=…; the roles are {}", option, list)));
      continue;
    }
    result[role] = text.substr(equals + 1);
  }
  return faults;
}

Diagnostics Sitting::take_seats(const MatchRecord& record) {
  Diagnostics faults = assign("seat", record.seats, seats_);
  faults.append(assign("name", record.players, players_));
  for (const Role& role : game_.roles()) {
    std::string& who = seats_[role.name()];
    if (who.empty()) who = role.is_chance() ? "random" : "person";
    if (who == "random") {
      const std::uint64_t seed = *call_.number("seed");
      opponents_.push_back(random_opponent(Random::stream(seed, role.index()).below(~0ULL)));
    } else if (who == "person" && !role.is_chance()) {
      opponents_.push_back(nullptr);
    } else {
      opponents_.push_back(nullptr);
      faults.add(plain_error(
          "wrong-call", fmt::format("{} cannot be played by {}", role.name(), who),
          role.is_chance() ? "chance is always random" : "the seats are: person, random"));
    }
  }
  if (!record.score.empty() && record.score.size() == score_.lines.size()) {
    score_.lines = record.score;
    score_before_ = score_;
  }
  return faults;
}

std::string Sitting::called(const Role& role) const {
  const auto name = players_.find(role.name());
  return name == players_.end() ? role.name() : fmt::format("{} ({})", name->second, role.name());
}

std::optional<std::string> Sitting::read_line(const std::string& prompt) {
  fmt::print("{}", prompt);
  std::fflush(stdout);
  std::string line;
  if (!std::getline(std::cin, line)) {
    fmt::print("\n");
    return std::nullopt;
  }
  if (::isatty(STDIN_FILENO) == 0) fmt::print("{}\n", line);  // a transcript shows what was typed
  return line;
}

void Sitting::say_not_understood(const Role& role, const std::string& line,
                                 const std::vector<Move>& legal) const {
  constexpr std::size_t most = 20;
  std::string list;
  for (std::size_t i = 0; i < std::min(most, legal.size()); ++i) {
    list += " " + legal[i].to_string();
  }
  if (legal.size() > most) list += fmt::format(" … ({} in all; `moves` lists them)", legal.size());
  fmt::print(
      "   {} is not legal for {} here, and nothing has changed.\n   legal:{}\n"
      "   `help` lists what else can be typed\n",
      line, role.name(), list);
}

// The legal moves are listed and marked where a person is about to choose among them. With hidden
// information a person alone at the table sees its own view; several are shown theirs one by one,
// when it is their turn.
void Sitting::print_page() {
  if (!seen_.empty() && !match_.over()) {
    if (seen_.size() == 1 && person_chooses()) print_view(game_.roles()[seen_.begin()->first]);
    return;
  }
  const bool with_moves = !match_.over() && person_chooses();
  fmt::print("\n{}\n", page(game_, picture_, match_.position(), match_.ply(), style_, with_moves));
}

void Sitting::print_view(const Role& role) {
  Seen& seen = seen_.at(role.index());
  fmt::print("\n{}\n", view_page(game_, picture_, seen.view, match_.position(), match_.ply(),
                                 style_, true, seen.shown));
  seen.shown = match_.ply();
}

// What every person knows after the moves played so far.
void Sitting::begin_views() {
  seen_.clear();
  looking_.reset();
  if (!game_.has_hidden_information()) return;
  for (const Role& role : game_.roles()) {
    if (!is_person(role)) continue;
    Seen seen{View(game_, role, match_.start()), 0};
    for (std::uint64_t ply = 0; ply < match_.ply(); ++ply) {
      (void)seen.view.advance(match_.positions()[ply], match_.joints()[ply]);
    }
    seen_.emplace(role.index(), std::move(seen));
  }
}

// Several people at one screen: the one whose turn it is looks, the others do not.
void Sitting::show_to(const Role& role) {
  if (seen_.size() < 2) return;
  if (looking_ != role.index() && ::isatty(STDIN_FILENO) != 0 && ::isatty(STDOUT_FILENO) != 0) {
    fmt::print("\x1b[2J\x1b[3J\x1b[H");
    if (!read_line(fmt::format("{}, press Enter when nobody else looks ", called(role)))) return;
  }
  looking_ = role.index();
  print_view(role);
}

// The move that a person chooses; none if a word ended the turn.
std::optional<Move> Sitting::ask(const Role& role, const std::vector<Move>& legal, Turn& turn) {
  while (true) {
    const auto typed = read_line(fmt::format("{}> ", called(role)));
    if (!typed) {
      turn = Turn::quit;
      return std::nullopt;
    }
    const std::string line = tidied(*typed);
    if (line.empty()) continue;
    if (auto move = whole_move(line, legal)) return move;
    turn = Turn::played;
    if (do_word(*typed, turn)) {
      if (turn != Turn::played) return std::nullopt;
      continue;
    }
    const TypedMove result = typed_move(line, legal);
    if (result.move) return result.move;
    if (result.candidates.empty()) {
      say_not_understood(role, line, legal);
      continue;
    }
    fmt::print("   {} is the beginning of several:", line);
    for (const Move& move : result.candidates) fmt::print(" {}", move.to_string());
    fmt::print("\n");
  }
}

// Does what a word of the sitting says; false if it is none.
bool Sitting::do_word(const std::string& typed, Turn& turn) {
  const std::string line = tidied(typed);
  const std::string word = line.substr(0, line.find(' '));
  if (line == "help") {
    fmt::print("{}", word_help);
  } else if (line == "moves") {
    if (seen_.size() > 1 && looking_) {
      print_view(game_.roles()[*looking_]);
    } else {
      print_page();
    }
  } else if (line == "undo") {
    undo();
    turn = Turn::again_asked;
  } else if (line == "again") {
    begin_again();
    turn = Turn::again_asked;
  } else if (line == "quit") {
    turn = Turn::quit;
  } else if (word == "save") {
    save(rest_of(typed));
  } else {
    return false;
  }
  return true;
}

// Whether some person has a choice in the position, or a move that is no waiting.
bool Sitting::person_chooses() const {
  return std::ranges::any_of(game_.roles(), [&](const Role& role) {
    if (!is_person(role)) return false;
    const std::vector<Move> legal = game_.legal(match_.position(), role);
    return legal.size() > 1 || (legal.size() == 1 && !game_.is_waiting(role, legal.front()));
  });
}

void Sitting::undo() {
  if (!match_.undo()) {
    fmt::print("   this is the start; there is nothing to take back\n");
    return;
  }
  while (!person_chooses() && match_.undo()) continue;
  begin_views();
  if (counted_) {
    score_ = score_before_;
    --games_counted_;
    counted_ = false;
  }
  fmt::print("   taken back to ply {}\n", match_.ply());
}

void Sitting::begin_again() {
  score_before_ = score_;
  counted_ = false;
  match_.begin_again();
  begin_views();
  fmt::print("   a new game\n");
}

void Sitting::save(const std::string& file) const {
  if (file.empty()) {
    fmt::print("   save where? write: save FILE\n");
    return;
  }
  MatchRecord record = record_of(match_);
  record.players = players_;
  record.seats = seats_;
  record.seed = *call_.number("seed");
  record.score = score_before_.lines;
  const Diagnostics faults = write_whole_file(file, to_json_lines(record, match_));
  if (faults.empty()) {
    fmt::print("   saved to {}\n", file);
  } else {
    fmt::print("{}", faults.render());
  }
}

Sitting::Turn Sitting::play_ply() {
  JointMove joint;
  std::string played;
  const std::vector<Role> to_move = game_.to_move(match_.position());
  for (const Role& role : game_.roles()) {
    const std::vector<Move> legal = game_.legal(match_.position(), role);
    const bool waits = legal.size() == 1 && game_.is_waiting(role, legal.front());
    std::optional<Move> move;
    if (waits) {
      move = legal.front();
    } else if (is_person(role)) {
      Turn turn = Turn::played;
      show_to(role);
      move = ask(role, legal, turn);
      if (!move) return turn;
    } else {
      move = opponents_[role.index()]->choose(match_.situation(role, legal));
    }
    const bool told = std::ranges::find(to_move, role) != to_move.end();
    if (told && (seen_.empty() || (seen_.size() == 1 && seen_.contains(role.index()))))
      played += fmt::format("   {} plays {}\n", called(role), move->to_string());
    joint.add(*move);
  }
  const Position before = match_.position();
  const Diagnostics faults = match_.play(joint);
  if (!faults.empty()) {
    fmt::print("{}", faults.render());
    return Turn::quit;
  }
  for (auto& [role, seen] : seen_) (void)seen.view.advance(before, joint);
  fmt::print("{}", played);
  return Turn::played;
}

void Sitting::count_result() {
  if (counted_) return;
  score_before_ = score_;
  const Outcome outcome = outcome_of(game_, match_.position());
  score_.count(game_, outcome);
  counted_ = true;
  ++games_counted_;
  fmt::print("result: {}\n", describe(game_, outcome, players_));
  for (const Role& role : game_.roles()) {
    if (role.is_chance()) continue;
    const Score::Line& line = score_.lines[role.index()];
    fmt::print("   {}: {} won, {} drawn, {} lost\n", called(role), line.wins, line.draws,
               line.losses);
  }
}

Sitting::Turn Sitting::after_the_end() {
  for (const Role& role : game_.roles()) {
    if (opponents_[role.index()]) {
      opponents_[role.index()]->match_ended(game_, role, match_.position());
    }
  }
  if (!any_person()) return Turn::quit;
  while (true) {
    const auto typed = read_line("over; again, undo, save FILE or quit> ");
    if (!typed) return Turn::quit;
    if (tidied(*typed).empty()) continue;
    Turn turn = Turn::played;
    if (!do_word(*typed, turn)) {
      fmt::print("   the game is over; no move is taken any more\n");
    } else if (turn != Turn::played) {
      return turn;
    }
  }
}

Status Sitting::run() {
  fmt::print("{}: {}\n", game_.name(), "`help` lists what can be typed");
  for (const Role& role : game_.roles()) {
    fmt::print("   {} is played by {}\n", called(role), seats_.at(role.name()));
  }
  const std::uint64_t most_plies = *call_.number("plies");
  begin_views();
  while (true) {
    print_page();
    Turn turn = Turn::played;
    if (match_.over()) {
      count_result();
      turn = after_the_end();
    } else if (match_.ply() >= most_plies) {
      fmt::print("broken off by --plies\n");
      return Status::done;
    } else {
      turn = play_ply();
    }
    if (turn == Turn::quit) return Status::done;
  }
}

}  // namespace

Status play(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  MatchRecord record;
  std::optional<Match> match(std::in_place, game, start);
  if (const auto file = call.text("resume")) {
    auto read = read_record(*file);
    if (!read) return report(call, read.diagnostics());
    record = *read;
    auto replayed = replay(game, record);
    if (!replayed) return report(call, replayed.diagnostics());
    match = *replayed;
    if (record.rules != game.digest()) {
      fmt::print(stderr, "{}: the rules have changed since; every move is still legal\n", *file);
    }
  }
  auto picture = picture_of(call, game);
  if (!picture) return Status::wrong_call;
  Sitting sitting(call, game, std::move(*picture), std::move(*match));
  const Diagnostics faults = sitting.take_seats(record);
  if (!faults.empty()) return report(call, faults);
  return sitting.run();
}

}  // namespace orchard::cli
