package dachshund.links.jdbc;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Layout;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * An engine of which no server could be run here: its statements are generated, to be read and taken elsewhere, and rows
 * are not sent to it.
 */
public final class StatementsOnlyKind implements StoreKind {

    private final String id;
    private final Dialect dialect;

    public StatementsOnlyKind(String id, Dialect dialect) {
        this.id = id;
        this.dialect = dialect;
    }

    @Override
    public String id() {
        return id;
    }

    @Override
    public String title() {
        return dialect.engine();
    }

    @Override
    public List<SettingField> settings() {
        return List.of(SettingField.text("database", "Database", "records", "")
                .checked(SettingField.needed("The name of the database is needed.")));
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public boolean statementsOnly() {
        return true;
    }

    @Override
    public RowStore open(Map<String, String> settings) {
        return new NoServer();
    }

    private final class NoServer implements RowStore {

        private String sentence() {
            return "The statements for " + dialect.engine()
                    + " are generated and were never executed, so this version does not connect to it. They can be read and copied at the recorder.";
        }

        private StoreProblem problem() {
            return new StoreProblem(StoreProblem.Kind.AWAY, -1, sentence(), null);
        }

        @Override
        public Dialect dialect() {
            return dialect;
        }

        @Override
        public LinkTest test(Duration limit) {
            return LinkTest.failed(sentence(), "");
        }

        @Override
        public List<String> tables() {
            return List.of();
        }

        @Override
        public Optional<TableDescription> describe(String table) throws StoreProblem {
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
            return TryOutcome.failed(sentence());
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
}
