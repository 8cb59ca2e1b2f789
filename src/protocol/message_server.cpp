#include "protocol/message_server.hpp"

#include <fmt/core.h>
#include <httplib.h>

#include <algorithm>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

namespace orchard::protocol {
namespace {

// A thread for each connection, made when it is needed and kept.
class ConnectionThreads : public httplib::TaskQueue {
 public:
  explicit ConnectionThreads(std::size_t most) : most_(most) {}

  void enqueue(std::function<void()> serve) override {
    const std::lock_guard lock(mutex_);
    waiting_.push_back(std::move(serve));
    if (waiting_.size() > idle_ && threads_.size() < most_) {
      threads_.emplace_back([this] { work(); });
    }
    changed_.notify_one();
  }

  void shutdown() override {
    {
      const std::lock_guard lock(mutex_);
      over_ = true;
    }
    changed_.notify_all();
    for (std::thread& thread : threads_) thread.join();
  }

 private:
  void work() {
    std::unique_lock lock(mutex_);
    while (true) {
      ++idle_;
      changed_.wait(lock, [&] { return over_ || !waiting_.empty(); });
      --idle_;
      if (waiting_.empty()) return;
      const std::function<void()> serve = std::move(waiting_.front());
      waiting_.pop_front();
      lock.unlock();
      serve();
      lock.lock();
    }
  }

  const std::size_t most_;
  std::mutex mutex_;  // guards what follows
  std::condition_variable changed_;
  std::deque<std::function<void()>> waiting_;
  std::vector<std::thread> threads_;
  std::size_t idle_ = 0;
  bool over_ = false;
};

constexpr const char* text_of_language = "text/acl";

}  // namespace

struct MessageServer::Inner {
  httplib::Server server;
  Handler handler;
  http::Address address;
};

MessageServer::MessageServer(Handler handler, std::size_t most_bytes, std::size_t connections)
    : inner_(std::make_unique<Inner>()) {
  inner_->handler = std::move(handler);
  httplib::Server& server = inner_->server;
  server.new_task_queue = [connections] { return new ConnectionThreads(connections); };
  constexpr time_t patience = 2;  // seconds, for each part of a request
  constexpr time_t between_messages = 5;
  server.set_tcp_nodelay(true);
  server.set_payload_max_length(most_bytes);
  server.set_read_timeout(patience);
  server.set_write_timeout(patience);
  server.set_keep_alive_timeout(between_messages);
  server.set_keep_alive_max_count(1'000'000);
  server.set_exception_handler(
      [](const httplib::Request&, httplib::Response& response, std::exception_ptr) {
        constexpr int failed = 500;
        response.status = failed;
        response.set_content("this could not be answered", "text/plain; charset=utf-8");
      });
  server.Post(".*", [this](const httplib::Request& request, httplib::Response& response) {
    if (request.has_header("Origin")) {
      constexpr int forbidden = 403;
      response.status = forbidden;
      response.set_content("pages have no part in matches", "text/plain; charset=utf-8");
      return;
    }
    const Reply reply = inner_->handler(request.body);
    response.status = reply.status;
    const bool right = reply.status == 200;
    response.set_content(reply.body, right ? text_of_language : "text/plain; charset=utf-8");
  });
  server.Get("/", [](const httplib::Request&, httplib::Response& response) {
    response.set_content(
        "This is a player of the open match protocol. The host of a match posts its messages "
        "here.\n",
        "text/plain; charset=utf-8");
  });
}

MessageServer::~MessageServer() = default;

Diagnostics MessageServer::listen_on(const http::Address& address) {
  inner_->address = address;
  return http::listen_on(inner_->server, inner_->address);
}

std::string MessageServer::address() const {
  return http::text_of(inner_->address);
}

void MessageServer::run(const std::stop_token& stop) {
  const std::stop_callback when_asked(stop, [this] { inner_->server.stop(); });
  if (!stop.stop_requested()) inner_->server.listen_after_bind();
}

}  // namespace orchard::protocol
