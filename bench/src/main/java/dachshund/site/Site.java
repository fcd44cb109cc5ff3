package dachshund.site;

import dachshund.standins.PrivateProcess;
import dachshund.standins.SimulatedPlant;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.mqtt.PrivateBroker;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.TimeUnit;
import java.util.regex.Pattern;

/**
 * The application as it is started, in its demo plant: a process of its own, with a database of its own, so that each plug is
 * in reach. System property bench.application names the program.
 */
public final class Site implements AutoCloseable {

    /** Seconds until it is not waited for any more: where other things keep both cores busy, a start takes more than a minute. */
    private static final int MOST_TRIES = 300;

    private static final Pattern FINGERPRINT = Pattern.compile("name=\"fingerprint\" value=\"([^\"]*)\"");
    private static final Pattern SEEN = Pattern.compile("name=\"seen\" value=\"([^\"]*)\"");
    private static final int STOP_SECONDS = 20;
    private static final long SEED = 7;

    private final List<Path> folders = new ArrayList<>();
    private final int port = PrivateProcess.freePort();
    private final int opcua = PrivateProcess.freePort();
    private final int modbus = PrivateProcess.freePort();
    private final int broker = PrivateProcess.freePort();
    private final PrivateMariaDb database;
    private PrivateBroker silos = new PrivateBroker(broker);
    private volatile SimulatedPlant plant = SimulatedPlant.start(opcua, modbus, broker, SEED);
    private int databaseBy;
    private final Map<String, String> environment = new HashMap<>();
    private Process application;
    private boolean kept;

    /** With the plant and the database running, and no application yet. */
    public Site() throws IOException, InterruptedException {
        this(new PrivateMariaDb(), Files.createTempDirectory("dachshund-site"));
    }

    /** @param folder of the application, empty */
    public Site(PrivateMariaDb database, Path folder) throws IOException, InterruptedException {
        this.database = database;
        this.databaseBy = database.port();
        folders.add(folder);
    }

    /** The servers and the broker of the plant are gone, all at once. */
    public void endPlant() {
        plant.close();
        silos.close();
    }

    /** The plant is there again, at the same places; its counters begin anew. */
    public void beginPlant() throws InterruptedException {
        silos = new PrivateBroker(broker);
        plant = SimulatedPlant.start(opcua, modbus, broker, SEED);
    }

    /** The plant that has ended is there again, at the same places, and goes on from where it was. */
    public void goOnWithPlant() throws InterruptedException {
        silos = new PrivateBroker(broker);
        plant = plant.again(opcua, modbus, broker);
    }

    /** The plant as it is now: what it says itself. */
    public SimulatedPlant plant() {
        return plant;
    }

    public PrivateMariaDb database() {
        return database;
    }

    /** The application comes to its database by this port, from its next start on. */
    public void reachDatabaseBy(int through) {
        databaseBy = through;
    }

    /** From its next start on, the application finds this in its environment. */
    public void environment(Map<String, String> more) {
        environment.putAll(more);
    }

    /** From the next start on, the application has an empty folder. What it leaves behind stays until the end. */
    public void moveToAnotherMachine() throws IOException {
        folders.add(Files.createTempDirectory("dachshund-site"));
    }

    public Path folder() {
        return folders.get(folders.size() - 1);
    }

    /**
     * Carries out a command of the application beside it.
     *
     * @return what it said
     */
    public String command(String word, Path file) throws IOException, InterruptedException {
        ProcessBuilder command = new ProcessBuilder(
                        "java",
                        "-jar",
                        System.getProperty("bench.application"),
                        word,
                        file.toString(),
                        "--dachshund.var=" + folder(),
                        "--dachshund.database.port=" + databaseBy,
                        "--dachshund.database.password-file=" + database.ownPassword())
                .redirectErrorStream(true);
        command.environment().put("DACHSHUND_PASSPHRASE", "only for this drill");
        Process process = command.start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        if (process.waitFor() != 0) {
            throw new IllegalStateException(word + " failed: " + said);
        }
        return said;
    }

    /** Its folder stays behind, to be looked at. */
    public void keep() {
        kept = true;
    }

    /** Starts the application; returns at once. */
    public void start() throws IOException {
        application = start(port, folder());
    }

    private Process start(int port, Path folder) throws IOException {
        ProcessBuilder starting = new ProcessBuilder(
                        "java",
                        "-Xmx1g",
                        "-jar",
                        System.getProperty("bench.application"),
                        "--server.port=" + port,
                        "--dachshund.var=" + folder,
                        "--dachshund.database.port=" + databaseBy,
                        "--dachshund.database.password-file=" + database.ownPassword(),
                        "--dachshund.demo=true",
                        "--dachshund.demo-opcua-port=" + opcua,
                        "--dachshund.demo-modbus-port=" + modbus,
                        "--dachshund.demo-broker-port=" + broker)
                .redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.appendTo(
                        folder.resolve("application.log").toFile()));
        starting.environment().putAll(environment);
        return starting.start();
    }

    /** Another installation with a folder of its own, on the same configuration and the same tables. */
    public final class Second implements AutoCloseable {

        private final Path folder = withTheKeyOf(folder());
        private final Process process = start(PrivateProcess.freePort(), folder);

        private Second() throws IOException {}

        private static Path withTheKeyOf(Path first) throws IOException {
            Path folder = Files.createTempDirectory("dachshund-second");
            Files.copy(first.resolve("secret.key"), folder.resolve("secret.key"));
            return folder;
        }

        /** Waits until it is so. */
        public void patiently(Callable<Boolean> reached) throws Exception {
            for (int tried = 0; !reached.call(); tried++) {
                if (tried > MOST_TRIES || !process.isAlive()) {
                    throw new IllegalStateException("The second installation does not come up, see " + folder + ".");
                }
                Thread.sleep(1000);
            }
        }

        @Override
        public void close() throws InterruptedException {
            process.destroy();
            if (!process.waitFor(STOP_SECONDS, TimeUnit.SECONDS)) {
                process.destroyForcibly();
            }
            PrivateProcess.remove(folder);
        }
    }

    public Second second() throws IOException {
        return new Second();
    }

    /** Process of the application. */
    public long pid() {
        return application.pid();
    }

    public boolean runs() {
        return application != null && application.isAlive();
    }

    /** Ends the application at once, as a power cut would, but for what the system still writes. */
    public void kill() throws InterruptedException {
        application.destroyForcibly();
        application.waitFor();
    }

    /** Asks the application to stop. @return in how many milliseconds it did */
    public long stop() throws InterruptedException {
        long from = System.nanoTime();
        application.destroy();
        if (!application.waitFor(STOP_SECONDS, TimeUnit.SECONDS)) {
            kill();
            throw new IllegalStateException("The application did not stop within " + STOP_SECONDS + " s.");
        }
        return (System.nanoTime() - from) / 1_000_000;
    }

    /** Somebody signed in, without a look at the pages. */
    public Person engineer() throws IOException, InterruptedException {
        return new Person(address()).signIn("engineer", "engineer-demo");
    }

    public String address() {
        return "http://localhost:" + port;
    }

    /** Signs in as soon as the application has its content and has released it: rows are there. */
    public Person patiently() throws InterruptedException {
        for (int tried = 0; ; tried++) {
            try {
                Person engineer = engineer();
                try (Connection connection = DriverManager.getConnection(database.url(""));
                        Statement statement = connection.createStatement();
                        ResultSet row = statement.executeQuery("SELECT 1 FROM quillmoor_records.dryer_log LIMIT 1")) {
                    if (row.next()) {
                        return engineer;
                    }
                }
                throw new IllegalStateException("The dryer's table is empty.");
            } catch (IOException | SQLException | IllegalStateException notYet) {
                if (tried > MOST_TRIES || !runs()) {
                    throw new IllegalStateException("The application does not come up.", notYet);
                }
            }
            Thread.sleep(1000);
        }
    }

    /** Id of the recorder of that name. */
    public static String recorder(Person engineer, String name) throws IOException, InterruptedException {
        return Person.found(
                Pattern.compile("/records/([0-9a-f]{8})\"[^>]*>" + Pattern.quote(name) + "<"),
                engineer.get("/records").body());
    }

    /** Drafts another period for a recorder. */
    public static void draftPeriod(Person engineer, String id, String period) throws IOException, InterruptedException {
        engineer.post(
                "/records/" + id + "/whens/0",
                "kind",
                "EVERY",
                "period",
                period,
                "seen",
                Person.found(SEEN, engineer.get("/records/" + id).body()));
    }

    /** Releases all drafts. */
    public static void release(Person engineer) throws IOException, InterruptedException {
        engineer.post(
                "/release",
                "fingerprint",
                Person.found(FINGERPRINT, engineer.get("/release").body()));
    }

    @Override
    public void close() throws InterruptedException {
        if (runs()) {
            application.destroy();
            if (!application.waitFor(STOP_SECONDS, TimeUnit.SECONDS)) {
                kill();
            }
        }
        plant.close();
        silos.close();
        database.close();
        if (!kept) {
            folders.forEach(PrivateProcess::remove);
        }
    }
}
