// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>
#include <QTableWidget>
#include <QTreeWidget>

#include "app/desk/document.h"
#include "exchange/site_import.h"

namespace culvert::app {

/// The drawer's page of the ground: surfaces and backgrounds with what they show, low points, and what a file that is
/// being imported offers. Nothing is taken before it has been looked at.
class GroundPanel : public QWidget {
    Q_OBJECT
  public:
    GroundPanel(Document& document, QWidget* parent = nullptr);
    /// Reads a file on another thread and shows what it offers.
    void look_at_file(const QString& path);
    [[nodiscard]] bool offering() const { return pages_->currentIndex() == 1; }
    [[nodiscard]] bool busy() const { return busy_; }
    [[nodiscard]] QString said() const { return said_->text(); }
    [[nodiscard]] QTreeWidget* tree() const { return tree_; }
    [[nodiscard]] QTableWidget* low_points() const { return low_; }
    [[nodiscard]] QTableWidget* offer_table() const { return offer_table_; }
    [[nodiscard]] QComboBox* role() const { return role_; }
    [[nodiscard]] QComboBox* unit() const { return unit_; }
    void take_as_surface();
    void take_as_background();
    void dismiss();
    void inlets_at_low_points();
    void pipes_from_layer();

  signals:
    void preview_wanted(const QString& what, culvert::Edit edit);
    void place_wanted(QPointF metres);
    void offered();  ///< there is something to look at

  private:
    void refresh();
    void refresh_low();
    void show_offer();
    void say(const QString& words, bool wrong = false);
    void set_busy(const QString& words);
    bool another_project(std::uint64_t generation);
    void tree_changed(QTreeWidgetItem* item);
    [[nodiscard]] ElementRef current() const;
    [[nodiscard]] double unit_metres() const;

    Document& document_;
    QTreeWidget* tree_;
    QLabel *said_, *offer_text_, *detail_;
    QStackedWidget* pages_;
    QTableWidget *offer_table_, *low_;
    QComboBox *role_, *unit_;
    QPushButton *surface_button_, *background_button_, *stop_;
    std::shared_ptr<SiteOffer> offer_;  ///< read only once a worker may look at it
    std::vector<PointColumn> columns_;  ///< what the person says each column of points is
    bool busy_ = false, filling_ = false;
    Task worker_{this};
};

}  // namespace culvert::app
