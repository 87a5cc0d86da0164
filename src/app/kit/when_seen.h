// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QEvent>
#include <QWidget>
#include <functional>

namespace culvert::app {

/// A hidden view waits: what would refresh a widget is done at once while it can be seen, else once when it is shown.
class WhenSeen : public QObject {
  public:
    WhenSeen(QWidget* widget, std::function<void()> refresh)
        : QObject(widget), widget_(widget), refresh_(std::move(refresh)) {
        widget->installEventFilter(this);
    }
    void operator()() {
        if (widget_->isVisible()) {
            waiting_ = false;
            refresh_();
        } else waiting_ = true;
    }

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override {
        if (e->type() == QEvent::Show && waiting_) {
            waiting_ = false;
            refresh_();
        }
        return QObject::eventFilter(watched, e);
    }

  private:
    QWidget* widget_;
    std::function<void()> refresh_;
    bool waiting_ = false;
};

}  // namespace culvert::app
