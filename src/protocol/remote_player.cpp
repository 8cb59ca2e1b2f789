#include "protocol/remote_player.hpp"

#include <fmt/core.h>
#include <httplib.h>

#include <condition_variable>
#include <mutex>
#include <thread>

#include "protocol/message_server.hpp"

namespace orchard::protocol {
namespace {

using Clock = std::chrono::steady_clock;

// Cuts a connection when the time is over, unless it is destroyed before.
class Watchdog {
 public:
  Watchdog(httplib::Client& client, Clock::time_point until)
      : thread_([this, &client, until](const std::stop_token& stop) {
          std::unique_lock lock(mutex_);
          over_.wait_until(lock, stop, until, [] { return false; });
          if (stop.stop_requested()) return;
          lock.unlock();
          client.stop();
        }) {}

 private:
  std::mutex mutex_;
  std::condition_variable_any over_;
  std::jthread thread_;
};

}  // namespace

struct RemotePlayer::Inner {
  Inner(std::string url, const Address& of) : address(std::move(url)), client(of.host, of.port) {
    client.set_tcp_nodelay(true);
    client.set_keep_alive(true);
  }
  std::string address;
  httplib::Client client;
};

RemotePlayer::RemotePlayer(std::unique_ptr<Inner> inner) : inner_(std::move(inner)) {}
RemotePlayer::~RemotePlayer() = default;
RemotePlayer::RemotePlayer(RemotePlayer&&) noexcept = default;

Result<RemotePlayer> RemotePlayer::at(const std::string& address) {
  const auto read = read_address(address);
  if (!read) return read.diagnostics();
  return RemotePlayer(std::make_unique<Inner>(address, *read));
}

const std::string& RemotePlayer::address() const {
  return inner_->address;
}

RemotePlayer::Answer RemotePlayer::send(const std::string& message, double seconds) {
  constexpr std::size_t most_bytes = 1u << 16;  // of a reply: it is a word or a move
  const auto begun = Clock::now();
  const auto until =
      begun + std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds));
  httplib::Client& client = inner_->client;
  Answer answer;
  const auto spent = [&] { return std::chrono::duration<double>(Clock::now() - begun).count(); };
  const Watchdog watchdog(client, until);
  // A connection that was kept may have been closed by the other side in this moment: once more.
  for (int tries = 0; tries < 2; ++tries) {
    const double left = seconds - spent();
    if (left <= 0) break;
    const auto timeout = std::chrono::microseconds(static_cast<std::int64_t>(1e6 * left) + 1000);
    client.set_connection_timeout(timeout);
    client.set_read_timeout(timeout);
    client.set_write_timeout(timeout);
    httplib::Request request;
    request.method = "POST";
    request.path = "/";
    request.headers = {{"Accept", "text/delim"},
                       {"Sender", "orchard"},
                       {"Receiver", "player"},
                       {"Content-Type", "text/acl"}};
    request.body = message;
    std::string text;
    request.content_receiver = [&](const char* data, std::size_t size, std::uint64_t,
                                   std::uint64_t) {
      text.append(data, size);
      return text.size() <= most_bytes;
    };
    const httplib::Result result = client.send(request);
    answer.seconds = spent();
    if (answer.seconds > seconds) break;
    if (result) {
      answer.kind = result->status == 200 ? Answer::Kind::reply : Answer::Kind::refused;
      answer.text = std::move(text);
      return answer;
    }
    answer.kind = Answer::Kind::unreachable;
    answer.text = httplib::to_string(result.error());
    if (result.error() == httplib::Error::Connection) return answer;
  }
  if (answer.seconds >= seconds || spent() >= seconds) answer.kind = Answer::Kind::late;
  return answer;
}

}  // namespace orchard::protocol
