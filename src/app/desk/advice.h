// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTimer>
#include <map>

#include "app/desk/task.h"
#include "core/design/design.h"
#include "core/design/propose_design.h"

/// What is tried in the background for the present state of a document, and stays empty until it is there: what each
/// size of the selected pipe would do, remedies of the findings that are looked at, a proposal of sizes.
///
/// It knows no document: it asks for what it works on when it begins, and drops an answer whose revision has passed.
namespace culvert::app {

class Advice : public QObject {
    Q_OBJECT
  public:
    /// What advice is given on. Copies are snapshots: they cost microseconds.
    struct Basis {
        Project project;
        Results results;  ///< of all events; empty while they are not of one revision
        std::shared_ptr<const Review> review;
        std::vector<Finding> clashes;  ///< findings of crossings
        EventId event;
        ElementRef selected;
        std::uint64_t revision = 0;
    };
    Advice(std::function<Basis()> basis, Task::Failed failed);

    /// The project changed: what was found holds no more.
    void forget();
    /// Another project: no view looks at anything yet.
    void look_away() { looked_at_.clear(); }
    /// Another pipe, or another event: its ladder is another.
    void turn();
    /// New results: seek anew, once the interface has had its turn.
    void later() { delay_.start(); }

    [[nodiscard]] const std::vector<LadderStep>& ladder() const { return ladder_; }
    [[nodiscard]] const std::vector<Remedy>* remedies_of(const Finding& finding) const;
    /// Remedies are sought for what is looked at: the findings a view shows, by its name; the selected element's
    /// always.
    void look_at(const QString& view, std::vector<FindingKey> shown);
    [[nodiscard]] bool seeking() const { return seeking_; }
    void propose_sizes();
    void propose_design();
    void stop_proposing() { proposer_.cancel(); }

  signals:
    void changed();
    void proposed(const std::shared_ptr<const culvert::SizeProposal>& proposal);
    void designed(const std::shared_ptr<const culvert::DesignProposal>& proposal);

  private:
    void seek_ladder();
    void seek_remedies();

    std::function<Basis()> basis_;
    std::vector<LadderStep> ladder_;
    std::map<FindingKey, std::vector<Remedy>> remedies_;
    std::map<QString, std::vector<FindingKey>> looked_at_;
    std::vector<FindingKey> sought_;  ///< of them, those that are being sought
    bool seeking_ = false;
    QTimer delay_;
    Task::Failed failed_;
    Task advisor_{this, failed_}, remedier_{this, failed_}, proposer_{this, failed_};
    // Tasks stand last: they are stopped first.
};

}  // namespace culvert::app
