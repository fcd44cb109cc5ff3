package dachshund.core.destination;

import dachshund.core.layout.Layout;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Stands for a destination that cannot be opened: each question is answered with the reason, and rows for it are held. */
public final class UnopenedStore implements RowStore {

    private final Dialect dialect;
    private final String why;

    /** @param why a sentence */
    public UnopenedStore(Dialect dialect, String why) {
        this.dialect = dialect;
        this.why = why;
    }

    private StoreProblem problem() {
        return new StoreProblem(StoreProblem.Kind.AWAY, -1, why, null);
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public RowStore in(String database) {
        return this;
    }

    @Override
    public LinkTest test(Duration limit) {
        return LinkTest.failed(why, "");
    }

    @Override
    public List<String> tables() throws StoreProblem {
        throw problem();
    }

    @Override
    public Optional<TableDescription> describe(String table) throws StoreProblem {
        throw problem();
    }

    @Override
    public List<String> databases() throws StoreProblem {
        throw problem();
    }

    @Override
    public void apply(List<String> statements) throws StoreProblem {
        throw problem();
    }

    @Override
    public void write(List<RowBatch> batches) throws StoreProblem {
        throw problem();
    }

    @Override
    public Set<RowId> landed(RowBatch batch) throws StoreProblem {
        throw problem();
    }

    @Override
    public Optional<RowId> mark(String lane) throws StoreProblem {
        throw problem();
    }

    @Override
    public TryOutcome tryOut(RowBatch one) {
        return TryOutcome.failed(why);
    }

    @Override
    public TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem {
        throw problem();
    }

    @Override
    public void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem {
        throw problem();
    }

    @Override
    public void close() {
        // nothing was opened
    }
}
