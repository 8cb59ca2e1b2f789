#include "cli/sitting.hpp"

#include <fmt/core.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <string_view>
#include <thread>

#include "cli/move_input.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "cli/seats.hpp"
#include "orchard/random.hpp"
#include "report/tables.hpp"

namespace orchard::cli {

Sitting::Sitting(const Call& call, const Game& game, Picture picture, Match match)
    : call_(call),
      game_(game),
      picture_(std::move(picture)),
      match_(std::move(match)),
      drawn_(*call.number("seed")) {
  const char* terminal = std::getenv("TERM");
  in_place_ = input_.on_terminal() && terminal != nullptr && *terminal != '\0' &&
              std::string_view(terminal) != "dumb";
  score_.lines.resize(game.roles().size());
  score_before_ = score_;
}

bool Sitting::any_person() const {
  return std::ranges::any_of(game_.roles(), [&](const Role& role) { return is_person(role); });
}

// Who is no claimant of --against-claim, and has no other seat, plays against it.
Diagnostics Sitting::seat_against_claim() {
  const auto claim = call_.text("against-claim");
  if (!claim) return {};
  ReviewOptions options;
  options.claims = call_.claims_file();
  options.budget.positions = call_.number("positions");
  auto found = defend_against_claim(game_, *claim, options);
  if (!found) return found.diagnostics();
  defence_ = std::move(found).value();
  std::string others;
  for (const Role& role : game_.roles()) {
    const bool claims = std::ranges::any_of(
        defence_->claimants, [&](const Role& one) { return one.index() == role.index(); });
    if (claims || role.is_chance() || !seats_[role.name()].empty()) continue;
    seats_[role.name()] = against;
    others += (others.empty() ? "" : " and ") + role.name();
  }
  const std::string choice = defence_->choice.empty() ? "" : " for " + text_of(defence_->choice);
  print("\"{}\" fails{}: {} will see to it\n\n", *claim, choice,
        others.empty() ? "nobody here" : others);
  return {};
}

Diagnostics Sitting::take_seats(const MatchRecord& record) {
  seats_ = record.seats;
  players_ = record.players;
  Diagnostics faults = assign_to_roles(call_, game_, "seat", seats_);
  faults.append(assign_to_roles(call_, game_, "name", players_));
  faults.append(seat_against_claim());
  for (const Role& role : game_.roles()) {
    std::string& who = seats_[role.name()];
    if (who.empty()) who = role.is_chance() ? "random" : "person";
    if (who == "person") {
      opponents_.push_back(nullptr);
      continue;
    }
    const std::uint64_t seed = Random::stream(*call_.number("seed"), role.index()).below(~0ULL);
    if (who == against && defence_) {
      opponents_.push_back(defence_->opponent(seed));
      continue;
    }
    auto opponent = opponent_of(game_, role, who, seed);
    if (opponent && (who == "random" || !role.is_chance())) {
      opponents_.push_back(std::move(opponent).value());
      print_caveat(call_, who, game_);
      continue;
    }
    opponents_.push_back(nullptr);
    if (!opponent && opponent.diagnostics().items().front().code != "unknown-opponent") {
      faults.append(opponent.diagnostics());  // of a file
      continue;
    }
    std::string seats = "person";
    for (const std::string& name : opponent_names()) seats += ", " + name;
    faults.add(plain_error("wrong-call", fmt::format("{} cannot be played by {}", role.name(), who),
                           role.is_chance()
                               ? "chance is random, or played by a person: real dice, a dealt hand"
                               : "the seats are: " + seats));
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

void Sitting::say(const std::string& text) {
  print("{}", text);
  if (in_place_) notes_ += text;
}

void Sitting::pause() const {
  if (::isatty(STDOUT_FILENO) == 0) return;
  std::fflush(stdout);
  std::this_thread::sleep_for(std::chrono::duration<double>(*call_.seconds("pause")));
}

PageStyle Sitting::page_style() const {
  PageStyle style(call_);
  style.text.widths = widths_;
  return style;
}

// The legal moves are listed and marked where a person is about to choose among them. With hidden
// information a person alone at the table sees its own view; several are shown theirs one by one,
// when it is their turn.
std::string Sitting::page_of(const PageStyle& style) {
  const bool with_moves = !match_.over() && person_chooses();
  std::optional<picture::LastStep> last;
  if (!match_.joints().empty()) {
    last = picture::LastStep{*(match_.positions().end() - 2), match_.joints().back()};
  }
  return fmt::format(
      "\n{}\n", page(game_, picture_, match_.position(), match_.ply(), style, with_moves, last));
}

void Sitting::print_page(bool every_move) {
  if (in_place_) print("\x1b[H\x1b[2J");
  if (!seen_.empty() && !match_.over()) {
    if (seen_.size() == 1 && person_chooses()) print_view(game_.roles()[seen_.begin()->first]);
  } else {
    PageStyle style = page_style();
    if (every_move) style.most_listed = static_cast<std::size_t>(-1);
    std::string text = page_of(style);
    // On a small terminal the board stays, and the list is told in short.
    const auto lines = static_cast<std::size_t>(std::ranges::count(text + notes_, '\n'));
    if (in_place_ && !every_move && lines + 1 > terminal_height()) {
      style.most_listed = 1;
      text = page_of(style);
    }
    print("{}", text);
  }
  if (in_place_) print("{}", notes_);
  notes_.clear();
}

void Sitting::print_view(const Role& role) {
  Seen& seen = seen_.at(role.index());
  print("\n{}\n", view_page(game_, picture_, seen.view, Insight::told, match_.position(),
                            match_.ply(), page_style(), true, seen.shown));
  seen.shown = match_.ply();
}

// What every person knows after the moves played so far.
void Sitting::begin_views() {
  seen_.clear();
  looking_.reset();
  if (!game_.has_hidden_information()) return;
  for (const Role& role : game_.roles()) {
    if (!is_person(role) || role.is_chance()) continue;
    const auto fresh = fresh_.find(role.index());
    Seen seen{fresh != fresh_.end() ? fresh->second : fresh_view(game_, role, match_.start()), 0};
    fresh_.emplace(role.index(), seen.view);
    for (std::uint64_t ply = 0; ply < match_.ply(); ++ply) {
      (void)seen.view.advance(match_.positions()[ply], match_.joints()[ply]);
    }
    seen_.emplace(role.index(), std::move(seen));
  }
}

void Sitting::say_moves(const Role& role) const {
  constexpr std::size_t most = 40;
  const std::vector<Move> legal = game_.legal(match_.position(), role);
  std::string list;
  for (std::size_t i = 0; i < std::min(most, legal.size()); ++i) {
    list += fmt::format("   {} {}", i + 1, legal[i].to_string());
  }
  if (legal.size() > most) list += fmt::format(" … {} in all", legal.size());
  print("{}:{}\n", called(role), list);
}

// Several people at one screen: the one whose turn it is looks, the others do not. False at the end
// of the input.
bool Sitting::show_to(const Role& role) {
  if (role.is_chance()) {
    if (!seen_.empty()) say_moves(role);  // no view of a player lists them
    return true;
  }
  if (seen_.size() < 2) return true;
  if (looking_ != role.index() && input_.on_terminal()) {
    // What another one saw must not stand further up. The terminal's second screen keeps no lines
    // that have gone by, and what stood on the first one comes back.
    if (!own_screen_) print("\x1b[?1049h");
    own_screen_ = true;
    print("\x1b[2J\x1b[H");
    const auto ready =
        input_.read(fmt::format("{}, press Enter when nobody else looks ", called(role)), {});
    if (!ready) return false;
  }
  looking_ = role.index();
  print_view(role);
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

Sitting::Turn Sitting::play_ply() {
  JointMove joint;
  PlyNotes notes;
  std::string played;
  bool by_opponents = false;
  const std::vector<Role> to_move = game_.to_move(match_.position());
  const bool several_persons =
      std::ranges::count_if(to_move, [&](const Role& role) { return is_person(role); }) > 1;
  for (const Role& role : game_.roles()) {
    const std::vector<Move> legal = game_.legal(match_.position(), role);
    const bool waits = legal.size() == 1 && game_.is_waiting(role, legal.front());
    std::optional<Move> move;
    const auto begun = std::chrono::steady_clock::now();
    if (waits) {
      move = legal.front();
    } else if (is_person(role)) {
      Turn turn = Turn::played;
      if (!show_to(role)) return Turn::quit;
      move = ask(role, legal, turn);
      if (!move) return turn;
      if (several_persons && input_.on_terminal()) {
        input_.hide_last();
        print("{} has chosen\n", called(role));
      }
    } else {
      move = opponents_[role.index()]->choose(match_.situation(role, legal));
      // Chance alone is watched like an opponent.
      by_opponents = by_opponents || !role.is_chance() || game_.roles().size() == 1;
    }
    const bool told = std::ranges::find(to_move, role) != to_move.end();
    if (told && (seen_.empty() || (seen_.size() == 1 && seen_.contains(role.index()))))
      played += fmt::format("   {} plays {}\n", called(role), move->to_string());
    if (!waits && !role.is_chance()) {
      const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begun;
      notes.seconds[role.name()] = took.count();
    }
    joint.add(*move);
  }
  last_notes_ = std::move(notes);
  const Position before = match_.position();
  const Diagnostics faults = match_.play(joint);
  if (!faults.empty()) {
    print("{}", faults.render());
    failed_ = true;
    return Turn::quit;
  }
  for (auto& [role, seen] : seen_) (void)seen.view.advance(before, joint);
  say(played);
  if (by_opponents) pause();
  return Turn::played;
}

namespace {

// "2 won, 0 drawn, 1 lost"; what happens in some games only stands there only if it did. Of
// somebody who plays alone the mean goal leads.
std::string in_words(const Tally& tally, bool alone) {
  std::string text =
      alone ? fmt::format("mean goal {:.4g}, {} won, {} lost", tally.mean_goal(), tally.wins,
                          tally.losses)
            : fmt::format("{} won, {} drawn, {} lost", tally.wins, tally.draws, tally.losses);
  if (tally.scored > 0) text += fmt::format(", {} in between", tally.scored);
  if (tally.stuck > 0) text += fmt::format(", {} stuck", tally.stuck);
  return text;
}

}  // namespace

Sitting::~Sitting() {
  leave_own_screen();
}

bool Sitting::leave_own_screen() {
  if (!own_screen_) return false;
  print("\x1b[?1049l");
  own_screen_ = false;
  return true;
}

void Sitting::count_result() {
  if (counted_) return;
  score_before_ = score_;
  const Outcome outcome = outcome_of(game_, match_.position());
  score_.count(game_, outcome);
  counted_ = true;
  print("result: {}\n", describe(game_, outcome, players_));
  for (const Role& role : game_.roles()) {
    if (role.is_chance()) continue;
    print("   {}: {}\n", called(role),
          in_words(score_.lines[role.index()], report::plays_alone(game_)));
  }
}

Sitting::Turn Sitting::after_the_end() {
  for (const Role& role : game_.roles()) {
    if (opponents_[role.index()]) {
      opponents_[role.index()]->match_ended(game_, role, match_.position());
    }
  }
  if (!any_person()) return Turn::quit;
  static const std::vector<std::string> over_words = {"again", "new",  "undo", "why terminal",
                                                      "save ", "quit", "help"};
  while (true) {
    // Where a role is stuck the page has said what is missing.
    const std::string_view why = game_.terminal(match_.position()) ? "why terminal, " : "";
    const auto typed =
        input_.read(fmt::format("over; {}again, new, undo, save FILE or quit> ", why), over_words);
    if (!typed) return Turn::quit;
    if (tidied(*typed).empty()) continue;
    Turn turn = Turn::played;
    if (!do_word(*typed, turn)) {
      print("   the game is over; no more moves are taken\n");
    } else if (turn != Turn::played) {
      return turn;
    }
  }
}

MatchRecord Sitting::head_of_record() const {
  MatchRecord record = record_of(match_);
  record.players = players_;
  record.seats = seats_;
  record.seed = *call_.number("seed");
  record.score = score_before_.lines;
  return record;
}

// Brings the file of --record up to date: with each game a record of its own, one behind another.
bool Sitting::write_down() {
  const auto file = call_.text("record");
  if (!file) return true;
  const auto& joints = match_.joints();
  const auto failed = [&](const Diagnostics& faults) {
    if (!faults.empty()) print("{}", faults.render());
    return !faults.empty();
  };
  std::size_t same = 0;
  while (same < std::min(joints.size(), written_.size()) && joints[same] == written_[same]) ++same;
  const bool another = end_written_ && (same < written_.size() || joints.size() > same);
  if (!writer_ || another) {
    MatchRecord head = head_of_record();
    head.joints.clear();
    auto begun = RecordWriter::begin(*file, head, writer_.has_value());
    if (!begun) return !failed(begun.diagnostics());
    writer_ = std::move(begun).value();
    written_.clear();
    end_written_ = false;
    same = 0;
  }
  if (same < written_.size()) {
    if (failed(writer_->go_back(same))) return false;
    written_.resize(same);
  }
  for (; same < joints.size(); ++same) {
    std::vector<Term> terms;
    for (const Move& move : joints[same]) terms.push_back(move.term());
    const PlyNotes notes = same + 1 == joints.size() ? last_notes_ : PlyNotes();
    if (failed(writer_->add(terms, notes))) return false;
    written_.push_back(joints[same]);
  }
  if (match_.over() && !end_written_) {
    end_written_ = true;
    return !failed(writer_->end(*end_of(match_)));
  }
  return true;
}

Status Sitting::run() {
  const Status status = sit();
  if (leave_own_screen() && match_.over()) print("{}", page_of(PageStyle(call_)));
  return status;
}

Status Sitting::sit() {
  print("{}: {}\n", game_.name(), "`help` lists what can be typed");
  for (const Role& role : game_.roles()) {
    print("   {} is played by {}\n", called(role), seats_.at(role.name()));
  }
  const std::uint64_t most_plies = *call_.number("plies");
  begin_views();
  while (true) {
    if (!write_down()) return Status::unfinished;
    print_page();
    Turn turn = Turn::played;
    if (match_.over()) {
      count_result();
      turn = after_the_end();
    } else if (match_.ply() >= most_plies) {
      print("broken off by --plies\n");
      return Status::done;
    } else {
      turn = play_ply();
    }
    if (turn == Turn::quit) return failed_ ? Status::unfinished : Status::done;
  }
}

}  // namespace orchard::cli
