package dachshund.drill;

import dachshund.drill.Ticks.Life;
import dachshund.site.Person;
import dachshund.site.Site;
import java.io.IOException;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Locale;
import java.util.Random;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * What is done to a table by those whose table it is: locked, renamed, a column dropped, narrowed, demanded. Each time it is
 * undone after a while; rows of a 20 ms recorder that were refused meanwhile are sent again. Each row that was made is then in
 * the table once, and another recorder of the same destination has gone on all the time.
 */
final class TablesDrill implements Drill.Exercise {

    private static final String DATABASE = "quillmoor_records";
    private static final String TABLE = DATABASE + ".dryer_log";
    private static final String OTHER = DATABASE + ".mill_vibration";
    private static final Pattern GROUP = Pattern.compile(
            "name=\"recorder\" value=\"([^\"]*)\".{0,200}?name=\"destination\" value=\"([^\"]*)\".{0,200}?name=\"alike\" value=\"([^\"]*)\"",
            Pattern.DOTALL);
    private static final Pattern SENT = Pattern.compile("([0-9,]+) rows? sent\\.");

    /** So long that the one look at what is refused, which a busy machine may take a second for, is not half of it. */
    private static final int LEAST_MILLIS = 4000;

    /** What is done, and how it is undone. */
    private enum Deed {
        LOCKED("LOCK TABLES " + TABLE + " WRITE", "UNLOCK TABLES"),
        RENAMED("RENAME TABLE " + TABLE + " TO " + TABLE + "_away", ""),
        DROPPED(
                "ALTER TABLE " + TABLE + " DROP COLUMN fan_speed",
                "ALTER TABLE " + TABLE + " ADD COLUMN fan_speed DOUBLE"),
        NARROWED(
                "ALTER TABLE " + TABLE + " MODIFY inlet_temperature TINYINT",
                "ALTER TABLE " + TABLE + " MODIFY inlet_temperature DOUBLE"),
        DEMANDED(
                "ALTER TABLE " + TABLE + " ADD COLUMN inspector VARCHAR(20) NOT NULL",
                "ALTER TABLE " + TABLE + " DROP COLUMN inspector");

        private final String done;
        private final String undone;

        Deed(String done, String undone) {
            this.done = done;
            this.undone = undone;
        }
    }

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int times = options.number("times", 2);
        Random random = new Random(options.number("seed", 1));
        System.out.printf("tables: each deed %d times; a row each 20 ms, counted in its table%n", times);
        try (Site site = new Site()) {
            Ticks ticks = new Ticks(site);
            site.start();
            Person engineer = site.patiently();
            Site.draftPeriod(engineer, Site.recorder(engineer, "Mill vibration"), "100 ms");
            ticks.begin(engineer);
            boolean good = true;
            long sent = 0;
            try (Connection admin = DriverManager.getConnection(site.database().url(""));
                    Statement statement = admin.createStatement()) {
                statement.execute("SET sql_mode = ''"); // what stands in a column that is narrowed is cut
                for (int round = 0; round < times; round++) {
                    for (Deed deed : Deed.values()) {
                        good &= deed(site, statement, deed, LEAST_MILLIS + random.nextInt(8000));
                        ticks.caughtUp();
                        sent += sendAgain(site.engineer());
                    }
                }
            }
            Thread.sleep(2000); // what was sent again lands
            site.stop();
            good &= account(site, ticks.lives(), sent);
            if (!good) {
                site.keep();
                System.out.println("What it left is in " + site.folder() + ".");
            }
            return good;
        }
    }

    private static boolean deed(Site site, Statement statement, Deed deed, int millis) throws Exception {
        statement.execute(deed.done);
        long before = count(site, OTHER);
        Thread.sleep(millis);
        long others = count(site, OTHER) - before;
        if (deed == Deed.RENAMED) {
            comeBack(statement);
        } else {
            statement.execute(deed.undone);
        }
        boolean wentOn = others * 100 > millis / 2;
        System.out.printf(
                "%s %-9s for %5d ms; meanwhile another recorder of 100 ms wrote %d rows%s%n",
                Drill.time(),
                deed.name().toLowerCase(Locale.ROOT),
                millis,
                others,
                wentOn ? "" : "  <<< NOT AS PROMISED");
        return wentOn;
    }

    /** The table has its name again; what came into one that was made in its place meanwhile is brought over. */
    private static void comeBack(Statement statement) throws SQLException {
        boolean another;
        try (ResultSet found = statement.executeQuery("SHOW TABLES FROM " + DATABASE + " LIKE 'dryer_log'")) {
            another = found.next();
        }
        if (!another) {
            statement.execute("RENAME TABLE " + TABLE + "_away TO " + TABLE);
            return;
        }
        statement.execute("RENAME TABLE " + TABLE + " TO " + TABLE + "_meanwhile, " + TABLE + "_away TO " + TABLE);
        // Numbers that it gave were given by the first one as well: they are drawn anew.
        statement.execute("ALTER TABLE " + TABLE + "_meanwhile MODIFY id BIGINT NULL, DROP PRIMARY KEY");
        statement.execute("UPDATE " + TABLE + "_meanwhile SET id = NULL");
        statement.execute("INSERT INTO " + TABLE + " SELECT * FROM " + TABLE + "_meanwhile");
        statement.execute("DROP TABLE " + TABLE + "_meanwhile");
    }

    private static long count(Site site, String table) throws SQLException {
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                Statement statement = connection.createStatement();
                ResultSet result = statement.executeQuery("SELECT COUNT(*) FROM " + table)) {
            result.next();
            return result.getLong(1);
        }
    }

    /** All that is set aside, until nothing is. @return how many rows the page says it sent */
    private static long sendAgain(Person engineer) throws IOException, InterruptedException {
        long sent = 0;
        for (int click = 0; click < 50; click++) {
            Matcher group = GROUP.matcher(engineer.get("/watch/aside").body());
            if (!group.find()) {
                return sent;
            }
            engineer.post(
                    "/watch/aside/send",
                    "recorder",
                    group.group(1),
                    "destination",
                    group.group(2),
                    "alike",
                    unescaped(group.group(3)));
            Matcher said = SENT.matcher(engineer.get("/watch/aside").body());
            long rows = said.find() ? Long.parseLong(said.group(1).replace(",", "")) : 0;
            System.out.printf("%s %d rows that were set aside are sent again%n", Drill.time(), rows);
            sent += rows;
        }
        throw new IllegalStateException("Rows that were set aside are not taken again.");
    }

    private static String unescaped(String html) {
        return html.replace("&quot;", "\"")
                .replace("&#39;", "'")
                .replace("&lt;", "<")
                .replace("&gt;", ">")
                .replace("&amp;", "&");
    }

    /** A row that is sent again has a running number of its own: as many are missing as were sent. */
    private static boolean account(Site site, List<Life> lives, long sent) throws SQLException {
        boolean good = lives.size() == 1;
        for (Life life : lives) {
            long moments = moments(site, life);
            long made = life.highest() - life.lowest() + 1 - sent;
            System.out.printf(
                    "%n%d rows, %d doubled, %d missing by their numbers, %d sent again; made for %d moments, %d of them there%n",
                    life.rows(), life.doubled(), life.missing(), sent, made, moments);
            good &= life.doubled() == 0 && life.missing() == sent && moments == made;
        }
        return good;
    }

    private static long moments(Site site, Life life) throws SQLException {
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                var statement = connection.prepareStatement(
                        "SELECT COUNT(DISTINCT record_time) FROM " + TABLE + " WHERE record_time BETWEEN ? AND ?")) {
            statement.setObject(1, utc(life.first()));
            statement.setObject(2, utc(life.last()));
            try (ResultSet result = statement.executeQuery()) {
                result.next();
                return result.getLong(1);
            }
        }
    }

    private static LocalDateTime utc(Instant time) {
        return LocalDateTime.ofInstant(time, ZoneOffset.UTC);
    }
}
