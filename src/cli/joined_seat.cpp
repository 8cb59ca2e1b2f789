#include "cli/joined_seat.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <condition_variable>
#include <cstdio>
#include <mutex>
#include <thread>

#include "base/interruption.hpp"
#include "cli/line_input.hpp"
#include "cli/move_input.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "protocol/message_server.hpp"
#include "protocol/role_in_match.hpp"

namespace orchard::cli {
namespace {

using Clock = std::chrono::steady_clock;
using protocol::Message;
using protocol::Reply;
using protocol::RoleInMatch;

// What the host says, and what the person answers.
class Mailbox {
 public:
  explicit Mailbox(LoadOptions limits) : limits_(std::move(limits)) {}

  Reply answer(const std::string& text);

  // What is new for the terminal.
  struct News {
    enum class Kind { begun, turn, moved, ended, broken_off, closed };
    Kind kind = Kind::closed;
    std::optional<RoleInMatch> at;
    Clock::time_point deadline{};
    std::uint64_t turn = 0;
  };
  // Waits for something new.
  News next();
  // False if the time for that turn is over.
  bool choose(std::uint64_t turn, const Move& move);
  bool is_open(std::uint64_t turn) const;
  void close();

 private:
  Reply answer_now(const std::string& text);
  Reply start(const Message& message);
  Reply play(const Message& message, const std::string& text);
  Reply end(const Message& message, bool broken_off);
  void tell(News::Kind kind);

  const LoadOptions limits_;
  mutable std::mutex mutex_;  // guards what follows
  std::condition_variable changed_;
  std::optional<Message> start_;
  std::optional<RoleInMatch> at_;
  std::string last_message_;
  std::string last_answer_;
  std::uint64_t turn_ = 0;
  bool open_ = false;  // the turn may still be answered
  Clock::time_point deadline_{};
  std::optional<Move> chosen_;
  std::vector<News> news_;
  bool closed_ = false;
};

void Mailbox::tell(News::Kind kind) {
  news_.push_back({kind, at_, deadline_, turn_});
  changed_.notify_all();
}

Reply Mailbox::answer(const std::string& text) {
  try {
    return answer_now(text);
  } catch (const Interrupted&) {
    return {422, "reading the rules takes longer than the clock of the start"};
  }
}

Reply Mailbox::answer_now(const std::string& text) {
  const auto message = protocol::read_message(text);
  if (!message) return {400, message.diagnostics().items().front().message};
  switch (message->kind) {
    case Message::Kind::info: {
      const std::lock_guard lock(mutex_);
      return {200, fmt::format("((name person) (status {}))", at_ ? "busy" : "available")};
    }
    case Message::Kind::preview:
      return {200, "ready"};
    case Message::Kind::start:
      return start(*message);
    case Message::Kind::play:
      return play(*message, text);
    case Message::Kind::stop:
      return end(*message, false);
    case Message::Kind::abort:
      break;
  }
  return end(*message, true);
}

bool is_again(const std::string& match, const std::string& other) {
  if (!other.starts_with(match + "-")) return false;
  return other.find_first_not_of("0123456789", match.size() + 1) == std::string::npos;
}

Reply Mailbox::start(const Message& message) {
  Budget budget;
  budget.seconds = message.start_seconds;
  const Interruption interruption(budget);
  auto game = Game::from_text(message.rules, "rules", limits_);
  if (!game) return {422, game.diagnostics().items().front().message};
  const auto role = game->role(message.role);
  if (!role) return {422, message.role + " is no role of these rules"};
  const std::lock_guard lock(mutex_);
  if (start_ && start_->match == message.match) return {200, "ready"};
  // One seat has one match. A host that found nobody here for a while begins it again under another
  // name: with a number behind its own.
  if (start_ && !is_again(start_->match, message.match)) return {200, "busy"};
  start_ = message;
  at_.emplace(*game, *role);
  last_message_.clear();
  last_answer_.clear();
  tell(News::Kind::begun);
  return {200, "ready"};
}

Reply Mailbox::play(const Message& message, const std::string& text) {
  std::unique_lock lock(mutex_);
  if (!start_ || start_->match != message.match) return {404, "there is no match " + message.match};
  const bool again = text == last_message_;
  if (!again || !last_answer_.empty()) {
    if (Diagnostics faults = at_->take(message, start_->play_seconds / 2); !faults.empty()) {
      if (again) return {200, last_answer_};
      return {409, faults.items().front().message};
    }
    if (again && message.first) return {200, last_answer_};
    last_message_ = text;
    last_answer_.clear();
    chosen_.reset();
    ++turn_;
    const protocol::Choice choice = at_->choice();
    if (choice.legal.empty()) return {409, "there is no legal move"};
    if (choice.legal.size() == 1) {
      last_answer_ = choice.legal.front().to_string();
      tell(News::Kind::moved);
      return {200, last_answer_};
    }
    open_ = true;
    deadline_ = Clock::now() + std::chrono::duration_cast<Clock::duration>(
                                   std::chrono::duration<double>(start_->play_seconds));
    tell(News::Kind::turn);
  }
  const std::uint64_t turn = turn_;
  changed_.wait_until(lock, deadline_,
                      [&] { return chosen_.has_value() || turn_ != turn || closed_; });
  if (turn_ != turn || closed_ || !chosen_) {
    open_ = open_ && turn_ != turn;
    return {408, "nobody has chosen in time"};
  }
  open_ = false;
  last_answer_ = chosen_->to_string();
  return {200, last_answer_};
}

Reply Mailbox::end(const Message& message, bool broken_off) {
  const std::lock_guard lock(mutex_);
  if (!start_ || start_->match != message.match) return {404, "there is no match " + message.match};
  constexpr double a_moment = 0.5;
  if (!broken_off) (void)at_->take(message, a_moment);
  open_ = false;
  ++turn_;
  tell(broken_off ? News::Kind::broken_off : News::Kind::ended);
  start_.reset();
  at_.reset();
  return {200, broken_off ? "aborted" : "done"};
}

Mailbox::News Mailbox::next() {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, [&] { return !news_.empty() || closed_; });
  if (news_.empty()) return {};
  // Only the last one matters, but beginnings and ends are told one by one.
  auto first = news_.begin();
  while (first + 1 != news_.end() && (first->kind == News::Kind::moved) &&
         (first + 1)->kind != News::Kind::begun) {
    ++first;
  }
  News news = std::move(*first);
  news_.erase(news_.begin(), first + 1);
  return news;
}

bool Mailbox::is_open(std::uint64_t turn) const {
  const std::lock_guard lock(mutex_);
  return open_ && turn_ == turn;
}

bool Mailbox::choose(std::uint64_t turn, const Move& move) {
  const std::lock_guard lock(mutex_);
  if (!open_ || turn_ != turn || Clock::now() >= deadline_) return false;
  chosen_ = move;
  changed_.notify_all();
  return true;
}

void Mailbox::close() {
  const std::lock_guard lock(mutex_);
  closed_ = true;
  changed_.notify_all();
}

// The terminal of the person.
class JoinedSeat {
 public:
  JoinedSeat(const Call& call, Mailbox& mailbox) : call_(call), mailbox_(mailbox) {
    const char* const terminal = std::getenv("TERM");
    in_place_ = input_.on_terminal() && terminal != nullptr && *terminal != '\0' &&
                std::string_view(terminal) != "dumb";
  }

  void run() {
    while (true) {
      const Mailbox::News news = mailbox_.next();
      if (!do_news(news)) return;
      std::fflush(stdout);  // it may be long until something is printed again
    }
  }

 private:
  using News = Mailbox::News;

  bool do_news(const News& news) {
    switch (news.kind) {
      case News::Kind::closed:
        return false;
      case News::Kind::begun:
        begin(*news.at);
        return true;
      case News::Kind::moved:
        show(*news.at, false);
        return true;
      case News::Kind::turn:
        show(*news.at, true);
        return ask(news);
      case News::Kind::ended:
        show_end(*news.at);
        return true;
      case News::Kind::broken_off:
        print("the host has broken the match off\n");
        return true;
    }
    return true;
  }

  void begin(const RoleInMatch& at) {
    picture_.reset();
    if (!call_.game.empty()) {
      if (auto picture = load_picture(call_, at.game())) picture_ = *picture;
    }
    if (!picture_) picture_.emplace(at.game());
    print("\na match begins: you are {}\n", at.role().name());
  }

  void show(const RoleInMatch& at, bool with_moves) const {
    if (in_place_) print("\x1b[H\x1b[2J");
    const Game& game = at.game();
    const PageStyle style(call_);
    if (at.view()) {
      print("\n{}", view_page(game, *picture_, *at.view(), Insight::told, at.position(), at.ply(),
                              style, with_moves, at.ply() > 0 ? at.ply() - 1 : 0));
      return;
    }
    if (game.has_hidden_information() && at.ply() == 0) {
      const View start = fresh_view(game, at.role(), game.initial());
      print("\n{}", view_page(game, *picture_, start, Insight::told, at.position(), 0, style,
                              with_moves, 0));
      return;
    }
    std::optional<picture::LastStep> last;
    if (at.ply() > 0) {
      last = picture::LastStep{*(at.match().positions().end() - 2), at.match().joints().back()};
    }
    print("\n{}", page(game, *picture_, at.position(), at.ply(), style, with_moves, last));
  }

  void show_end(const RoleInMatch& at) const {
    show(at, false);
    if (at.view()) {
      const auto goal = at.over() ? at.game().goal(at.position(), at.role()) : std::nullopt;
      print("the match is over{}\n",
            goal ? fmt::format(": {} {}", at.role().name(), *goal) : std::string());
    } else if (at.over()) {
      print("result: {}\n", describe(at.game(), outcome_of(at.game(), at.position())));
    } else {
      print("the match was ended by the host after {} plies\n", at.ply());
    }
    print("waiting for the next match\n");
  }

  // False if the person wants to leave.
  bool ask(const News& news) {
    const std::vector<Move> legal = news.at->choice().legal;
    std::vector<std::string> completions;
    for (const Move& move : legal) completions.push_back(move.to_string());
    completions.emplace_back("quit");
    while (mailbox_.is_open(news.turn)) {
      const double left = std::chrono::duration<double>(news.deadline - Clock::now()).count();
      const auto typed = input_.read(
          fmt::format("{} ({:.0f} s)> ", news.at->role().name(), std::max(0.0, left)), completions);
      if (!typed) return false;
      const std::string line = tidied(*typed);
      if (line == "quit") return false;
      if (line.empty()) continue;
      const TypedMove move = typed_move(line, legal);
      if (move.move) {
        if (!mailbox_.choose(news.turn, *move.move)) {
          print("   the clock was over; the host makes a move for you\n");
        }
        return true;
      }
      if (move.candidates.empty()) {
        print("   {} is no legal move; type one of the list, or its number, or quit\n", line);
      } else {
        print("   {} is the beginning of several:", line);
        for (const Move& one : move.candidates) print(" {}", one.to_string());
        print("\n");
      }
    }
    print("   the clock is over; the host makes a move for you\n");
    return true;
  }

  const Call& call_;
  Mailbox& mailbox_;
  LineInput input_;
  bool in_place_ = false;
  std::optional<Picture> picture_;
};

}  // namespace

Status play_joined(const Call& call, const std::string& address) {
  const auto where = http::read_address(address);
  if (!where) return report(call, where.diagnostics());
  const auto limits = load_options_for_strangers(call);
  if (!limits) return report(call, limits.diagnostics());
  Mailbox mailbox(*limits);
  constexpr std::size_t most_bytes = 1u << 20;
  constexpr std::size_t connections = 32;
  protocol::MessageServer server([&](const std::string& body) { return mailbox.answer(body); },
                                 most_bytes, connections);
  if (const Diagnostics faults = server.listen_on(*where); !faults.empty()) {
    return report(call, faults);
  }
  print("a seat is free at {}\na host takes it with --seat ROLE={}; waiting\n", server.address(),
        server.address());
  if (output_fault()) return Status::done;
  std::jthread serving([&](const std::stop_token& stop) { server.run(stop); });
  JoinedSeat(call, mailbox).run();
  mailbox.close();
  serving.request_stop();
  return Status::done;
}

}  // namespace orchard::cli
