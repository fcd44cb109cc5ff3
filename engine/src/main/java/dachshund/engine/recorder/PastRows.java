package dachshund.engine.recorder;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.engine.thread.Hands;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/** Rows of a time that has been, made by a person's wish: they go the way of all rows, as new ones of their lane. */
public final class PastRows {

    private static final Duration SENT_WITHIN = Duration.ofSeconds(10);
    private static final Duration ON_DISK_WITHIN = Duration.ofSeconds(10);

    private final Function<String, Optional<RecorderRun>> runs;
    private final Hands hands;

    /**
     * @param runs  recorders at work, by id
     * @param hands who does the work that is waited for
     */
    public PastRows(Function<String, Optional<RecorderRun>> runs, Hands hands) {
        this.runs = runs;
        this.hands = hands;
    }

    private RecorderRun run(String recorder) {
        return runs.apply(recorder)
                .orElseThrow(() -> new IllegalArgumentException(
                        "The recorder does not run. Rows are made as its released design says; start it first."));
    }

    /**
     * The design that makes rows now.
     *
     * @throws IllegalArgumentException with a sentence, where the recorder does not run
     */
    public RecorderDefinition design(String recorder) {
        return run(recorder).definition();
    }

    /** Waits until every row that is on its way to the destination now has its fate, so long at most; whether that is so. */
    public boolean settled(String recorder, String destination, Duration limit) {
        return run(recorder).settled(destination, limit, hands);
    }

    /**
     * Puts rows on disk for one destination, under new ids.
     *
     * @throws IllegalArgumentException with a sentence, where not all of them were taken, or nobody knows yet; those that
     *                                  were taken land
     */
    public void send(RecorderDefinition design, String destination, List<Row> rows) {
        RecorderRun run = run(design.id());
        if (!run.definition().equals(design)) {
            throw new IllegalArgumentException("Another design was released meanwhile.");
        }
        int place =
                design.layout().written().stream().map(Column::isRowId).toList().indexOf(true);
        List<Row> fresh = new ArrayList<>();
        for (Row row : rows) {
            RowId id = run.nextId();
            Object[] cells = row.cells().clone();
            if (place >= 0) {
                cells[place] = id.toString();
            }
            fresh.add(new Row(id, row.recordTime(), cells));
        }
        RecorderRun.Sent sent = run.sendAgain(destination, fresh, SENT_WITHIN);
        if (sent.rows() < rows.size()) {
            throw new IllegalArgumentException(sent.trouble());
        }
        if (!hands.await(() -> sent.writer().durable() >= sent.end(), ON_DISK_WITHIN)) {
            throw new IllegalArgumentException("The rows are on their way, but the disk has not answered.");
        }
    }
}
