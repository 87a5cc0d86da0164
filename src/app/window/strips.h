// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/document.h"

namespace culvert::app {

/// Top of the window: project, one chip per rain event with its worst verdict, rain uplift, solve state.
class EventStrip : public QWidget {
    Q_OBJECT
  public:
    EventStrip(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QRectF chip(EventId event) const;
    [[nodiscard]] QString state_text() const;

  signals:
    void command_bar_wanted();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;

  private:
    struct Chip {
        EventId event;
        QRectF rect;
    };
    [[nodiscard]] std::vector<Chip> chips() const;
    [[nodiscard]] double title_width() const;
    [[nodiscard]] QRectF find_box() const;
    Document& document_;
};

/// Left of the window: the job in its order. Choosing a stage changes tools, colours, ledger; it hides nothing.
class StageRail : public QWidget {
    Q_OBJECT
  public:
    StageRail(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] Stage stage() const { return stage_; }
    void set_stage(Stage stage);
    [[nodiscard]] int findings(Stage stage) const { return nth(counts_, stage); }
    [[nodiscard]] QRectF button(Stage stage) const;

  signals:
    void stage_changed(culvert::Stage stage);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    Document& document_;
    void count();
    Stage stage_ = Stage::Layout;
    std::array<int, 16> counts_{};  ///< by stage: what is beyond a limit
};

}  // namespace culvert::app
