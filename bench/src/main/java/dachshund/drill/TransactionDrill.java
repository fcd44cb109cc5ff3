package dachshund.drill;

import dachshund.site.Site;
import dachshund.standins.business.Business;
import dachshund.standins.plant.PelletWorks;
import dachshund.standins.plant.Weighbridge;
import dachshund.standins.plant.Weighbridge.Visit;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.TimeUnit;

/**
 * Trucks over the weighbridge, lots that end, samples of them and pallets that fill, one after the other, while the application,
 * the database, or both are killed with -9 within a run, or the plant is cut off: between any two of its steps, between commit and
 * answer, while a tag is written. Each truck waits until it is answered, but for those whose controller has forgotten them. In the
 * end the books are compared: what the plant was told, the tickets, the totals of suppliers, the lots with their orders, what
 * became of their samples, the pallets, and the ledger.
 */
final class TransactionDrill implements Drill.Exercise {

    private static final Duration SETTLED_WITHIN = Duration.ofMinutes(5);
    /** The demo's transaction reads its tags so long after its trigger; its steps come then. */
    private static final int STEPS_BEGIN_MILLIS = 280;

    private static final int STEPS_LAST_MILLIS = 160;

    private enum Victim {
        APPLICATION,
        DATABASE,
        BOTH,
        /** All its servers are gone for a moment; its controllers go on from where they were, or have forgotten. */
        PLANT
    }

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int minutes = options.number("minutes", 0);
        int times = options.number("times", minutes > 0 ? Integer.MAX_VALUE : 5);
        Random random = new Random(options.number("seed", 1));
        System.out.printf(
                "transaction: %s; a truck as soon as one has left, a lot each half minute, a sample of each%n",
                minutes > 0 ? minutes + " minutes" : times + " times each");
        try (Site site = new Site()) {
            try (Business business = new Business("127.0.0.1:" + site.database().port(), "root", "")) {
                business.work(Instant.now());
            }
            site.start();
            site.patiently();
            orders(site);
            PelletWorks works = site.plant().works();
            Weighbridge bridge = works.weighbridge();
            works.hurry();
            soon(() -> bridge.visits().size() >= 3);
            Samples samples = new Samples(site.database(), random);
            long until = System.nanoTime() + TimeUnit.MINUTES.toNanos(minutes);
            for (int round = 0; round < times && (minutes == 0 || System.nanoTime() < until); round++) {
                for (Victim victim : Victim.values()) {
                    round(site, bridge, victim, random);
                    samples.report(works.endedLots());
                }
            }
            works.shut();
            soon(works::isAnswered);
            boolean good = account(site, bridge.visits());
            samples.report(works.endedLots());
            good &= samples.account();
            good &= lotsAndPallets(site, works);
            if (!good) {
                site.keep();
                System.out.println("What it left is in " + site.folder() + ".");
            }
            site.stop();
            return good;
        }
    }

    /** One for each line, so that lots have an order whose progress they are. */
    private static void orders(Site site) throws SQLException {
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                PreparedStatement insert = connection.prepareStatement(
                        "INSERT INTO quillmoor_orders.pellet_order (product_code, line, bags_wanted, started) VALUES ('WP6-15', ?, 900, UTC_TIMESTAMP())")) {
            for (String line : List.of("PL1", "PL2", "PL3")) {
                insert.setString(1, line);
                insert.executeUpdate();
            }
        }
    }

    /** Each lot that has ended is booked once, orders went on by as many, and each record that was confirmed stands once. */
    private static boolean lotsAndPallets(Site site, PelletWorks works) throws Exception {
        List<String> wrong = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(site.database().url("quillmoor_records"));
                Statement statement = connection.createStatement()) {
            Set<String> booked = new HashSet<>();
            int weighed = 0;
            try (ResultSet rows = statement.executeQuery("SELECT lot_id, pellets_kg FROM lot_record")) {
                while (rows.next()) {
                    booked.add(rows.getString(1));
                    weighed += rows.getBigDecimal(2) == null ? 0 : 1;
                }
            }
            List<String> ended = works.endedLots();
            ended.stream()
                    .filter(lot -> !booked.contains(lot))
                    .forEach(lot -> wrong.add("lot " + lot + " is not booked"));
            long progress = number(statement, "SELECT COALESCE(SUM(lots), 0) FROM order_progress");
            if (progress != booked.size()) {
                wrong.add(booked.size() + " lots are booked, and orders went on by " + progress);
            }
            long differs = number(
                    statement,
                    "SELECT COUNT(*) FROM order_progress p WHERE pellets_kg <> (SELECT COALESCE(SUM(COALESCE(pellets_kg, 0)), 0) FROM lot_record l WHERE l.order_no = p.order_no)");
            if (differs > 0) {
                wrong.add("the kilos of " + differs + " orders are not those of their lots");
            }
            news(site, booked, wrong);
            // The last one may be safe and not yet taken off the bagger's queue.
            long pallets = number(statement, "SELECT COUNT(*) FROM pallet_record");
            List<String> taken = works.confirmedPallets();
            long confirmed = taken.size();
            Set<String> there = new HashSet<>();
            try (ResultSet rows = statement.executeQuery(
                    "SELECT CONCAT(record_index, ' ', record_lot, ' ', record_bags, ' ', CAST(record_net_weight AS DECIMAL(9,1))) FROM pallet_record")) {
                while (rows.next()) {
                    there.add(rows.getString(1));
                }
            }
            taken.stream()
                    .filter(pallet -> !there.contains(pallet))
                    .forEach(pallet -> wrong.add("pallet " + pallet + " does not stand in the table as it was"));
            if (pallets < confirmed || pallets > confirmed + 1) {
                wrong.add(confirmed + " records of pallets were confirmed, and " + pallets + " stand in the table");
            }
            long between = number(
                    statement, "SELECT COALESCE(MAX(record_index) - MIN(record_index) + 1, 0) FROM pallet_record");
            if (between != pallets) {
                wrong.add("of " + between + " records of pallets that follow each other, " + pallets
                        + " stand in the table");
            }
            System.out.printf(
                    "%d lots have ended, %d are booked (%d with their kilos), orders went on by %d; %d records of pallets confirmed, %d in the table%n",
                    ended.size(), booked.size(), weighed, progress, confirmed, pallets);
        }
        wrong.stream().limit(20).forEach(System.out::println);
        return wrong.isEmpty();
    }

    /** What follows the end of a lot: a row in a file of its own, once, and a line in a list, at least once over a death. */
    private static void news(Site site, Set<String> booked, List<String> wrong) throws Exception {
        Path files = site.folder().resolve("files");
        try {
            soon(() -> energy(files).containsAll(booked));
        } catch (IllegalStateException never) {
            wrong.add("not every lot that is booked stands in the energy file");
        }
        List<String> energy = energy(files);
        List<String> told = Files.readAllLines(files.resolve("events").resolve("lots.csv")).stream()
                .skip(1)
                .map(line -> line.split(",", 2)[0])
                .toList();
        if (energy.size() != booked.size() || !booked.containsAll(energy)) {
            wrong.add(booked.size() + " lots are booked, and " + energy.size() + " stand in the energy file");
        }
        if (!Set.copyOf(told).equals(booked)) {
            wrong.add(
                    booked.size() + " lots are booked, and " + Set.copyOf(told).size() + " stand in the list");
        }
        System.out.printf(
                "%d lots stand in the energy file, %d lines of %d lots in the list%n",
                energy.size(), told.size(), Set.copyOf(told).size());
    }

    private static List<String> energy(Path files) throws SQLException {
        List<String> lots = new ArrayList<>();
        try (Connection file = DriverManager.getConnection("jdbc:sqlite:" + files.resolve("energy.db"));
                Statement statement = file.createStatement();
                ResultSet rows = statement.executeQuery("SELECT lot_id FROM lot_energy")) {
            while (rows.next()) {
                lots.add(rows.getString(1));
            }
        }
        return lots;
    }

    private static long number(Statement statement, String query) throws SQLException {
        try (ResultSet rows = statement.executeQuery(query)) {
            rows.next();
            return rows.getLong(1);
        }
    }

    private static void soon(Callable<Boolean> reached) throws Exception {
        long until = System.nanoTime() + SETTLED_WITHIN.toNanos();
        while (!reached.call()) {
            if (System.nanoTime() > until) {
                throw new IllegalStateException("It is not so after " + SETTLED_WITHIN.toSeconds() + " s.");
            }
            Thread.sleep(5);
        }
    }

    private static void round(Site site, Weighbridge bridge, Victim victim, Random random) throws Exception {
        int before = bridge.visits().size();
        soon(() -> !bridge.asks());
        soon(bridge::asks);
        int after = random.nextInt(5) == 0
                ? random.nextInt(STEPS_BEGIN_MILLIS)
                : STEPS_BEGIN_MILLIS + random.nextInt(STEPS_LAST_MILLIS);
        Thread.sleep(after);
        if (victim == Victim.PLANT) {
            cutOffPlant(site, after, random);
        } else {
            kill(site, victim, after, random);
        }
        soon(() -> bridge.visits().size() > before + 1);
    }

    private static void cutOffPlant(Site site, int after, Random random) throws InterruptedException {
        site.endPlant();
        boolean forgets = random.nextBoolean();
        System.out.printf(
                "%s PLANT cut off %d ms after a request%s%n", Drill.time(), after, forgets ? ", and forgets it" : "");
        Thread.sleep(random.nextInt(4000));
        if (forgets) {
            site.plant().works().forget();
        }
        site.goOnWithPlant();
    }

    private static void kill(Site site, Victim victim, int after, Random random) throws Exception {
        if (victim != Victim.DATABASE) {
            site.kill();
        }
        if (victim != Victim.APPLICATION) {
            site.database().kill();
        }
        System.out.printf("%s %s killed %d ms after a request%n", Drill.time(), victim, after);
        if (victim != Victim.APPLICATION) {
            Thread.sleep(random.nextInt(3000));
            site.database().start();
        }
        if (victim != Victim.DATABASE) {
            site.start();
            site.patiently();
        }
    }

    private static boolean account(Site site, List<Visit> visits) throws Exception {
        List<String> wrong = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                Statement statement = connection.createStatement()) {
            Map<String, Long> tickets = new HashMap<>();
            Set<String> twice = new HashSet<>();
            try (ResultSet rows =
                    statement.executeQuery("SELECT run_id, ticket_no FROM quillmoor_records.weigh_ticket")) {
                while (rows.next()) {
                    if (tickets.put(rows.getString(1), rows.getLong(2)) != null) {
                        twice.add(rows.getString(1));
                    }
                }
            }
            twice.forEach(each -> wrong.add("two tickets of request " + each));
            int done = 0;
            int refused = 0;
            int failed = 0;
            int inVain = 0;
            int forgotten = 0;
            int forgottenDone = 0;
            for (Visit visit : visits) {
                String request = visit.epoch() + "/" + visit.number();
                Long ticket = tickets.get(request);
                if (visit.code() == 1 || visit.code() == 2) {
                    done++;
                    if (ticket == null) {
                        wrong.add("request " + request + " was told \"" + visit.text() + "\" and has no ticket");
                    } else if (visit.code() == 1
                            && (!visit.text().equals("ticket " + ticket) || visit.ticket() != ticket)) {
                        wrong.add("request " + request + " was told \"" + visit.text() + "\", the display shows "
                                + visit.ticket() + ", and its ticket is " + ticket);
                    }
                } else if (visit.code() == 3) {
                    refused += visit.plate().equals("XX 9") ? 1 : 0;
                    failed += visit.plate().equals("XX 9") ? 0 : 1;
                    if (ticket != null) {
                        wrong.add("request " + request + " was told \"" + visit.text() + "\" and has ticket " + ticket);
                    }
                } else if (visit.forgotten()) {
                    forgotten++;
                    forgottenDone += ticket == null ? 0 : 1;
                } else {
                    inVain++;
                    wrong.add("request " + request + " was never answered");
                }
            }
            Set<String> known = new HashSet<>();
            visits.forEach(each -> known.add(each.epoch() + "/" + each.number()));
            long before = tickets.keySet().stream()
                    .filter(each -> !known.contains(each))
                    .count();
            totals(statement, wrong);
            // Each run that says done is one ticket; what was done before stands there more than once.
            soon(() -> ledger(statement) >= tickets.size() - before);
            System.out.printf(
                    "%d trucks: %d with a ticket, %d of an unknown plate refused, %d failed for a while and told so, %d forgotten by their controller (%d with a ticket), %d without an answer; %d tickets (%d of before the drill), %d requests done in the ledger%n",
                    visits.size(),
                    done,
                    refused,
                    failed,
                    forgotten,
                    forgottenDone,
                    inVain,
                    tickets.size(),
                    before,
                    ledger(statement));
        }
        wrong.stream().limit(20).forEach(System.out::println);
        return wrong.isEmpty();
    }

    /** What suppliers have brought is what their tickets say. */
    private static void totals(Statement statement, List<String> wrong) throws SQLException {
        try (ResultSet rows = statement.executeQuery(
                "SELECT t.supplier, t.trucks, t.net_kg, COUNT(*), SUM(w.net_kg) FROM quillmoor_records.intake_total t"
                        + " LEFT JOIN quillmoor_records.weigh_ticket w ON w.supplier = t.supplier GROUP BY t.supplier, t.trucks, t.net_kg")) {
            while (rows.next()) {
                if (rows.getLong(2) != rows.getLong(4) || rows.getBigDecimal(3).compareTo(rows.getBigDecimal(5)) != 0) {
                    wrong.add(rows.getString(1) + ": " + rows.getLong(2) + " trucks with " + rows.getBigDecimal(3)
                            + " kg in total, and " + rows.getLong(4) + " tickets with " + rows.getBigDecimal(5)
                            + " kg");
                }
            }
        }
    }

    /** Requests of which the ledger has a run that stands. */
    private static long ledger(Statement statement) throws SQLException {
        try (ResultSet rows = statement.executeQuery(
                "SELECT COUNT(DISTINCT JSON_VALUE(document, '$.request')) FROM dachshund.ledger_run WHERE JSON_VALUE(document, '$.name') = 'Weighbridge ticket' AND outcome IN ('DONE', 'DONE_BUT', 'ALREADY')")) {
            rows.next();
            return rows.getLong(1);
        }
    }
}
