package dachshund.bench;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.secret.SecretBox;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PlantClock;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.journal.SegmentJournal;
import dachshund.links.file.FolderKind;
import dachshund.links.network.AllowedPlaces;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Draft;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.LiveFile;
import dachshund.office.definition.Releases;
import dachshund.office.design.DesignList;
import dachshund.office.design.Designs;
import dachshund.office.own.DachshundSettings;
import dachshund.office.own.OwnDatabase;
import dachshund.office.person.Acting;
import dachshund.office.release.ReleaseCheck;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.CountDownLatch;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.springframework.context.annotation.AnnotationConfigApplicationContext;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.jdbc.support.JdbcTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * What people wait for where much is designed: the office and the engine as the application puts them together, without
 * pages, over a MariaDB of its own; each step beside the bare SQL that it cannot do without, on the same server.
 */
final class DefinitionsBench implements Bench.Benchmark {

    private static final int RECORDERS = Integer.getInteger("bench.recorders", 10_000);
    private static final int TAGS = Integer.getInteger("bench.tags", 50_000);
    private static final int SOURCES = 50;
    private static final int COLUMNS = 10;
    private static final int DRAFTS = 300;
    private static final int TIMES = 25;
    private static final String FOLDER = "f0000001";

    private final List<String> lines = new ArrayList<>();

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        Path folder = Files.createTempDirectory("dachshund-bench");
        try (PrivateMariaDb server = new PrivateMariaDb()) {
            System.out.printf(
                    Locale.ROOT,
                    "definitions: %,d recorders of %d columns, %,d tags of %d sources, %d drafts%n",
                    RECORDERS,
                    COLUMNS,
                    TAGS,
                    SOURCES,
                    DRAFTS);
            System.out.printf(Locale.ROOT, "%-28s %12s %12s%n", "median", "ms", "bare SQL ms");
            try (Office office = new Office(server, folder);
                    Connection bare = DriverManager.getConnection(server.url("dachshund"))) {
                measure(office, bare);
            }
            Runtime.getRuntime().gc();
            long from = System.nanoTime();
            try (Office again = new Office(server, folder);
                    Connection bare = DriverManager.getConnection(server.url("dachshund"))) {
                double started = millis(from);
                line("start", started, timed(1, () -> everything(bare)));
                System.gc();
                long heap = Runtime.getRuntime().totalMemory()
                        - Runtime.getRuntime().freeMemory();
                System.out.printf(Locale.ROOT, "%-28s %12d MB%n", "heap after a collection", heap >> 20);
                lines.add("\"heap_mb\":" + (heap >> 20));
            }
        }
        System.out.printf(
                Locale.ROOT,
                "{\"bench\":\"definitions\",\"recorders\":%d,\"tags\":%d,\"drafts\":%d,%s,\"steal_percent\":%.1f}%n",
                RECORDERS,
                TAGS,
                DRAFTS,
                String.join(",", lines),
                machine.stealPercent());
        try (Stream<Path> all = Files.walk(folder)) {
            for (Path each : all.sorted(Collections.reverseOrder()).toList()) {
                Files.delete(each);
            }
        }
    }

    private void measure(Office office, Connection bare) throws Exception {
        Definitions definitions = office.bean(Definitions.class);
        Drafts drafts = office.bean(Drafts.class);
        Releases releases = office.bean(Releases.class);
        Designs designs = office.bean(Designs.class);
        ReleaseCheck check = office.bean(ReleaseCheck.class);
        List<Definition> all = new ArrayList<>(sources());
        all.add(new DestinationDefinition(FOLDER, "Files", "", "folder", Map.of("folder", "bench", "format", "csv")));
        IntStream.range(0, RECORDERS).mapToObj(n -> recorder(n, "")).forEach(all::add);
        long from = System.nanoTime();
        drafts.editAll(all, "bench");
        line("everything is drafted", millis(from), Double.NaN);
        from = System.nanoTime();
        releases.releaseAll(releases.fingerprint(), "bench");
        line("everything is released", millis(from), Double.NaN);
        drafts.editAll(
                IntStream.range(0, DRAFTS).mapToObj(n -> recorder(n, "edited")).toList(), "bench");
        besides(bare);
        int[] nth = {0};
        Callable<Object> edit = () -> {
            RecorderDefinition next = recorder(RECORDERS / 2 + nth[0] % 10, "edit " + nth[0]++);
            drafts.edit(next, drafts.revision(next.id()), "bench");
            return next;
        };
        line("an edit", timed(TIMES, edit), timed(TIMES, () -> insertDraft(bare, nth[0]++)));
        line(
                "undo",
                timed(10, () -> {
                    drafts.undo(recorder(RECORDERS / 2 + nth[0]++ % 10, "").id(), "bench");
                    return nth;
                }),
                Double.NaN);
        DesignList.Query everything = new DesignList.Query("", "", "", "", "", "name", 1);
        line(
                "the list, a page",
                timed(TIMES, () -> DesignList.page(designs.all(), everything)),
                timed(TIMES, () -> names(bare, "")));
        DesignList.Query search = new DesignList.Query("49 dryer", "", "", "", "", "when", 2);
        line(
                "a search",
                timed(TIMES, () -> DesignList.page(designs.all(), search)),
                timed(TIMES, () -> names(bare, "49")));
        line("where a tag is used", timed(TIMES, () -> definitions.users(new TagRef(source(3), "t17"))), Double.NaN);
        line(
                "a new name that is free",
                timed(TIMES, () -> definitions.freeName(RecorderDefinition.class, "", "Dryer 17 log")),
                Double.NaN);
        Set<String> drafted = definitions.drafts().stream().map(Draft::id).collect(Collectors.toSet());
        line("the review of all drafts", timed(5, () -> check.items(drafted)), timed(5, () -> drafts(bare)));
        line(
                "release of one",
                timed(
                        9,
                        () -> {
                            RecorderDefinition next = (RecorderDefinition) edit.call();
                            long begun = System.nanoTime();
                            releases.release(Set.of(next.id()), releases.fingerprint(), "bench");
                            return millis(begun);
                        },
                        true),
                timed(9, () -> insertRelease(bare, nth[0]++)));
    }

    private void line(String what, double millis, double bare) {
        System.out.printf(
                Locale.ROOT,
                "%-28s %12.1f %12s%n",
                what,
                millis,
                Double.isNaN(bare) ? "" : String.format(Locale.ROOT, "%.1f", bare));
        lines.add(String.format(Locale.ROOT, "\"%s_ms\":%.2f", what.replaceAll("\\W+", "_"), millis));
    }

    private static double millis(long from) {
        return (System.nanoTime() - from) / 1e6;
    }

    private static double timed(int times, Callable<?> step) throws Exception {
        return timed(times, step, false);
    }

    /** Median, in milliseconds, after a few that are not counted; the step measures itself where it says so. */
    private static double timed(int times, Callable<?> step, boolean itself) throws Exception {
        int unmeasured = times > 2 ? 2 : 0;
        double[] millis = new double[times];
        for (int i = -unmeasured; i < times; i++) {
            long from = System.nanoTime();
            Object said = step.call();
            if (i >= 0) {
                millis[i] = itself ? (Double) said : millis(from);
            }
        }
        return Machine.median(millis);
    }

    private static String source(int n) {
        return String.format("a%07x", n);
    }

    private static List<SourceDefinition> sources() {
        return IntStream.range(0, SOURCES)
                .mapToObj(n -> new SourceDefinition(
                        source(n),
                        "Line " + n,
                        "",
                        "kept",
                        Map.of(),
                        Duration.ofSeconds(1),
                        IntStream.range(0, TAGS / SOURCES)
                                .mapToObj(t -> new TagInfo(
                                        "t" + t,
                                        "Line " + n + " / Dryer",
                                        "Value " + t,
                                        DataKind.NUMBER,
                                        "°C",
                                        "",
                                        true))
                                .toList()))
                .toList();
    }

    private static RecorderDefinition recorder(int n, String description) {
        Layout layout = Layout.proposed();
        for (int c = 0; c < COLUMNS; c++) {
            layout = layout.plus(Column.of(
                    "value_" + c,
                    SqlType.DOUBLE,
                    new ColumnSource.FromTag(
                            new TagRef(source(n % SOURCES), "t" + (n * COLUMNS + c) % (TAGS / SOURCES)),
                            ColumnSource.Aspect.VALUE)));
        }
        return new RecorderDefinition(
                String.format("c%07x", n),
                "Dryer " + n + " log",
                description,
                List.of(new When.Every(Duration.ofHours(1))),
                layout,
                List.of(new Where(FOLDER, "dryer_" + n + ".csv", new Upkeep(true, true), false)));
    }

    /** Tables of the same make, so that what is written bare is not in ours. */
    private static void besides(Connection bare) throws SQLException {
        try (Statement statement = bare.createStatement()) {
            statement.execute("CREATE DATABASE bare");
            for (String table : List.of("draft", "release_made", "definition_version")) {
                statement.execute("CREATE TABLE bare." + table + " LIKE " + table);
            }
        }
    }

    private static int insertDraft(Connection bare, int revision) throws SQLException {
        try (PreparedStatement insert = bare.prepareStatement(
                "INSERT INTO bare.draft (definition_id, revision, kind, name, document, edited_by, edited_at) SELECT 'ffffffff', ?, kind, name, document, 'bench', NOW() FROM draft WHERE document IS NOT NULL LIMIT 1")) {
            insert.setInt(1, revision);
            return insert.executeUpdate();
        }
    }

    private static int insertRelease(Connection bare, int n) throws SQLException {
        bare.setAutoCommit(false);
        try (PreparedStatement made = bare.prepareStatement(
                        "INSERT INTO bare.release_made (made_at, made_by, summary) VALUES (NOW(), 'bare', 'bare')");
                PreparedStatement version = bare.prepareStatement(
                        "INSERT INTO bare.definition_version (definition_id, release_id, kind, name, document) SELECT 'ffffffff', LAST_INSERT_ID(), kind, name, NULL FROM draft LIMIT 1");
                PreparedStatement draft = bare.prepareStatement("DELETE FROM bare.draft WHERE definition_id = ?")) {
            made.executeUpdate();
            version.executeUpdate();
            draft.setString(1, String.format("e%07x", n));
            draft.executeUpdate();
            bare.commit();
            return n;
        } finally {
            bare.setAutoCommit(true);
        }
    }

    private static int names(Connection bare, String part) throws SQLException {
        return read(
                bare,
                "SELECT definition_id, kind, name FROM definition_version WHERE name LIKE '%" + part
                        + "%' ORDER BY name LIMIT 50");
    }

    private static int drafts(Connection bare) throws SQLException {
        return read(bare, "SELECT definition_id, document FROM draft");
    }

    private static int everything(Connection bare) throws SQLException {
        return read(bare, "SELECT definition_id, document FROM definition_version")
                + read(bare, "SELECT tags FROM tag_list");
    }

    private static int read(Connection bare, String sql) throws SQLException {
        int bytes = 0;
        try (PreparedStatement select = bare.prepareStatement(sql);
                ResultSet rows = select.executeQuery()) {
            while (rows.next()) {
                bytes += rows.getBytes(rows.getMetaData().getColumnCount()).length;
            }
        }
        return bytes;
    }

    /** Office and engine at work, started as the application starts them. */
    private static final class Office implements AutoCloseable {

        private final AnnotationConfigApplicationContext beans = new AnnotationConfigApplicationContext();

        Office(PrivateMariaDb server, Path folder) throws InterruptedException {
            DachshundSettings settings = new DachshundSettings(
                    "Quillmoor",
                    ZoneOffset.UTC,
                    folder,
                    "",
                    false,
                    0,
                    0,
                    0,
                    "",
                    "",
                    new DachshundSettings.Database("127.0.0.1", server.port(), "dachshund", "root", "", ""));
            PlantClock clock = new SystemClock();
            SecretBox secrets = new SecretBox(new byte[32]);
            AllowedPlaces places = new AllowedPlaces(Optional.empty());
            Engine engine = new Engine(new Engine.Settings(
                    folder,
                    "Quillmoor",
                    ZoneOffset.UTC,
                    clock,
                    secrets,
                    places,
                    List.of(),
                    List.of(new FolderKind(folder.resolve("files"), ZoneOffset.UTC)),
                    SegmentJournal.Limits.USUAL));
            beans.registerBean(DachshundSettings.class, () -> settings);
            beans.registerBean(PlantClock.class, () -> clock);
            beans.registerBean(SecretBox.class, () -> secrets);
            beans.registerBean("outside", AllowedPlaces.class, () -> places);
            beans.registerBean(Engine.class, () -> engine);
            beans.registerBean(LiveFile.class, () -> new LiveFile(folder, secrets));
            beans.registerBean(Acting.class, () -> new Acting() {
                @Override
                public String who() {
                    return "bench";
                }

                @Override
                public String page() {
                    return "";
                }
            });
            beans.registerBean(JdbcClient.class, () -> JdbcClient.create(beans.getBean(DataSource.class)));
            beans.registerBean(
                    TransactionTemplate.class,
                    () -> new TransactionTemplate(new JdbcTransactionManager(beans.getBean(DataSource.class))));
            beans.scan("dachshund.office");
            beans.refresh();
            CountDownLatch ready = new CountDownLatch(1);
            OwnDatabase database = bean(OwnDatabase.class);
            Releases releases = bean(Releases.class);
            releases.startFromFile();
            database.whenReady(releases::load);
            database.whenReady(ready::countDown);
            database.begin();
            ready.await();
        }

        <T> T bean(Class<T> type) {
            return beans.getBean(type);
        }

        @Override
        public void close() {
            beans.close();
        }
    }
}
