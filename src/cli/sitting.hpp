// A sitting at the terminal: any number of games, one after another, between people and opponents.
//
// On a terminal the page is drawn where the one before stood, and what is to be said stands below
// it; elsewhere everything follows in a transcript.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "cli/call.hpp"
#include "cli/line_input.hpp"
#include "cli/page.hpp"
#include "orchard/claim_defence.hpp"
#include "orchard/match.hpp"
#include "orchard/picture.hpp"
#include "orchard/random.hpp"
#include "orchard/record.hpp"
#include "orchard/view.hpp"

namespace orchard::cli {

class Sitting {
 public:
  Sitting(const Call& call, const Game& game, Picture picture, Match match);
  ~Sitting();  // leaves the terminal's second screen, however the sitting ended
  Sitting(const Sitting&) = delete;
  Sitting& operator=(const Sitting&) = delete;

  Diagnostics take_seats(const MatchRecord& record);
  Status run();
  // The game played last.
  const Match& match() const { return match_; }

 private:
  enum class Turn { played, again_asked, quit };
  // With hidden information: what a person knows, and the ply up to which it was shown.
  struct Seen {
    View view;
    std::uint64_t shown = 0;
  };

  // sitting.cpp: the course of a sitting
  Status sit();
  Diagnostics seat_against_claim();
  void print_page(bool every_move = false);
  std::string page_of(const PageStyle& style);
  bool leave_own_screen();  // false if it is not shown
  void print_view(const Role& role);
  void begin_views();
  bool show_to(const Role& role);
  void pause() const;
  bool is_person(const Role& role) const { return opponents_[role.index()] == nullptr; }
  bool any_person() const;
  bool person_chooses() const;
  Turn play_ply();
  Turn after_the_end();
  void count_result();
  bool write_down();  // false if the record cannot be written
  MatchRecord head_of_record() const;
  std::string called(const Role& role) const;
  PageStyle page_style() const;
  // Says a line now, and again below the next page if that is drawn over it.
  void say(const std::string& text);

  // sitting_words.cpp: what can be typed
  std::optional<Move> ask(const Role& role, const std::vector<Move>& legal, Turn& turn);
  bool do_word(const std::string& line, Turn& turn);
  void say_not_understood(const Role& role, const std::string& line,
                          const std::vector<Move>& legal);
  void say_moves(const Role& role) const;
  std::string move_like_others(const Role& role, const std::vector<Move>& legal,
                               const std::string& line) const;
  std::vector<Move> moves_at(const Role& role, const std::vector<Move>& legal,
                             std::string place) const;
  std::vector<std::string> completions(const Role& role, const std::vector<Move>& legal) const;
  void give_name(const std::string& role_and_name);
  void undo();
  void redo();
  void begin_again();
  void begin_new_match();
  void save(const std::string& file);
  void write_case(const std::string& name);
  bool resume(const std::string& file);
  void say_why(const std::string& question);
  void say_effects(const std::string& move);
  void show_view(const std::string& role);
  bool keeps_secrets() const { return game_.has_hidden_information() && !match_.over(); }

  const Call& call_;
  const Game& game_;
  Picture picture_;
  // Shared by all pages, so that boards keep their size.
  std::shared_ptr<std::vector<std::size_t>> widths_ = std::make_shared<std::vector<std::size_t>>();
  Match match_;
  LineInput input_;
  bool in_place_ = false;
  bool own_screen_ = false;  // the terminal's second screen is shown
  std::string notes_;        // said since the page was drawn
  std::map<std::string, std::string> seats_;
  std::map<std::string, std::string> players_;
  static constexpr const char* against = "against-claim";  // the seat of who does
  std::optional<ClaimDefence> defence_;
  std::vector<std::unique_ptr<Opponent>> opponents_;  // by role; null for a person
  std::map<std::size_t, Seen> seen_;                  // by role
  std::map<std::size_t, View> fresh_;                 // the same at the start
  std::optional<std::size_t> looking_;  // the person the screen was last shown to, if several play
  // With --record: what the file has of the game being played.
  std::optional<RecordWriter> writer_;
  std::vector<JointMove> written_;
  bool end_written_ = false;
  PlyNotes last_notes_;  // of the last ply
  Score score_;
  Score score_before_;    // without the game being played
  Random drawn_;          // for a person who plays chance and lets it draw
  bool failed_ = false;   // a limit was met in the middle of a match
  bool counted_ = false;  // the game being played is in `score_`
};

}  // namespace orchard::cli
