package dachshund.web.backup;

import dachshund.core.definition.Definition;
import dachshund.core.secret.SecretBox;
import dachshund.office.definition.LiveFile;
import dachshund.office.own.DachshundSettings;
import dachshund.web.backup.BackupFile.Held;
import dachshund.web.backup.BackupFile.Manifest;
import dachshund.web.backup.BackupFile.Part;
import dachshund.web.setup.EngineWiring;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.AtomicMoveNotSupportedException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.sql.SQLException;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * Makes a backup while everything records, brings one back onto an empty installation, and rehearses that. What each did is
 * told in lines for a person.
 *
 * <p>In it: our own database, the local store (how far each lane is, rows that are set aside), the key, certificates, the ports
 * that definitions name. Not in it: what journals hold, and the destinations.
 */
final class Backup {

    private static final String TABLES = "own-database.jsonl";
    private static final String LOCAL = "local.db";
    private static final String KEY = "secret.key";
    private static final List<String> FOLDERS = List.of("opcua", "ports");
    /** What our own tables hold, for people. */
    private static final Map<String, String> WORDS = Map.of(
            "api_token", "tokens",
            "audit", "entries of the audit",
            "definition_version", "versions of designs",
            "draft", "drafts",
            "person", "people",
            "release_made", "releases",
            "tag_list", "lists of tags");
    /** Folders that parts are gathered in. */
    private static final Pattern SCRATCH = Pattern.compile("backup\\d+");

    private final DachshundSettings settings;
    private final int iterations;

    Backup(DachshundSettings settings) {
        this(settings, BackupFile.ITERATIONS);
    }

    /** @param iterations what guessing the passphrase of a backup shall cost */
    Backup(DachshundSettings settings, int iterations) {
        this.settings = settings;
        this.iterations = iterations;
    }

    /** @return what it holds, in lines */
    List<String> make(Path file, String passphrase, Instant now) throws IOException, SQLException {
        Path var = settings.var();
        if (!Files.exists(var.resolve(KEY)) || !Files.exists(var.resolve(LOCAL))) {
            throw new IOException(
                    "There is nothing to back up in " + var.toAbsolutePath() + ": it has no key or no local store.");
        }
        if (Files.exists(file)) {
            throw new IOException(file + " is there already. A backup replaces no file.");
        }
        Path next = file.resolveSibling(file.getFileName() + ".part");
        try (FileChannel one = FileChannel.open(
                        var.resolve("backup.lock"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
                FileLock alone = one.tryLock()) {
            if (alone == null) {
                throw new IOException("Another backup of this installation is being made. Wait until it is done.");
            }
            leftBehind(var);
            return make(file, next, passphrase, now);
        }
    }

    /** What a backup that was killed has left. */
    private static void leftBehind(Path var) throws IOException {
        try (Stream<Path> all = Files.list(var)) {
            for (Path each : all.filter(path ->
                            SCRATCH.matcher(path.getFileName().toString()).matches())
                    .toList()) {
                remove(each);
            }
        }
    }

    private List<String> make(Path file, Path next, String passphrase, Instant now) throws IOException, SQLException {
        Path var = settings.var();
        Path scratch = Files.createTempDirectory(var, "backup");
        try {
            List<String> lines = new ArrayList<>();
            try (OutputStream out = Files.newOutputStream(privately(next));
                    BackupFile.Writer writer = new BackupFile.Writer(out, passphrase, iterations)) {
                // The live definitions first: a release in between is in our own database, which is loaded later.
                for (String name : List.of("live-definitions.sealed", KEY)) {
                    if (Files.exists(var.resolve(name))) {
                        part(writer, name, var.resolve(name));
                    }
                }
                for (Path older : EngineWiring.olderKeys(var)) {
                    part(writer, older.getFileName().toString(), older);
                }
                for (String folder : FOLDERS) {
                    folder(writer, folder);
                }
                Path tables = privately(scratch.resolve(TABLES));
                try (OutputStream dump = Files.newOutputStream(tables)) {
                    lines.add("own database: " + counted(new OwnTables(settings.database()).write(dump)));
                }
                part(writer, TABLES, tables);
                Path local = scratch.resolve(LOCAL);
                LocalCopy.copy(var.resolve(LOCAL), local);
                part(writer, LOCAL, local);
                lines.add("rows set aside: " + LocalCopy.state(local).aside());
                Map<String, String> names = names();
                List<Held> held = LocalCopy.held(local, var.resolve("offered")).entrySet().stream()
                        .map(each -> new Held(names.getOrDefault(each.getKey(), each.getKey()), each.getValue()))
                        .toList();
                lines.addAll(held(held));
                writer.manifest(now.truncatedTo(ChronoUnit.SECONDS).toString(), settings.site(), held);
            }
            force(next);
            try {
                Files.move(next, file, StandardCopyOption.ATOMIC_MOVE);
            } catch (AtomicMoveNotSupportedException e) {
                Files.move(next, file);
            }
            lines.add(String.format(Locale.ROOT, "%s: %,d bytes", file, Files.size(file)));
            LocalCopy.waits(var.resolve(LOCAL), now, "made a backup", String.join("; ", lines));
            return lines;
        } finally {
            Files.deleteIfExists(next);
            remove(scratch);
        }
    }

    private static Path privately(Path file) throws IOException {
        Files.deleteIfExists(file);
        return Files.createFile(
                file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
    }

    private static void force(Path file) throws IOException {
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE)) {
            channel.force(true);
        }
    }

    private static void part(BackupFile.Writer writer, String name, Path file) throws IOException {
        try (InputStream in = Files.newInputStream(file)) {
            writer.part(name, in);
        }
    }

    private void folder(BackupFile.Writer writer, String folder) throws IOException {
        Path root = settings.var();
        if (!Files.isDirectory(root.resolve(folder))) {
            return;
        }
        try (Stream<Path> files = Files.walk(root.resolve(folder))) {
            for (Path each : files.filter(Files::isRegularFile).sorted().toList()) {
                part(writer, root.relativize(each).toString().replace('\\', '/'), each);
            }
        }
    }

    /** Names of what is live, by id, where that can be read. */
    private Map<String, String> names() {
        Map<String, String> names = new HashMap<>();
        try {
            new LiveFile(settings.var(), EngineWiring.secrets(settings))
                    .read()
                    .map(LiveFile.Live::definitions)
                    .ifPresent(all -> all.forEach(each -> names.put(each.id(), each.name())));
        } catch (IOException | RuntimeException unreadable) {
            // ids say it as well
        }
        return names;
    }

    private static List<String> held(List<Held> held) {
        List<String> lines = new ArrayList<>();
        held.stream()
                .filter(each -> each.rows() > 0)
                .forEach(each -> lines.add(String.format(
                        Locale.ROOT,
                        "not in it: %,d rows at most that were on their way to %s, on the disk of that machine",
                        each.rows(),
                        each.destination())));
        return lines;
    }

    private static String counted(Map<String, Long> tables) {
        List<String> words = new ArrayList<>();
        tables.forEach((table, rows) ->
                words.add(WORDS.getOrDefault(table, table) + " " + String.format(Locale.ROOT, "%,d", rows)));
        return String.join(", ", words);
    }

    /** Brings it back onto an empty installation: all of it, or nothing. @return the account, in lines */
    List<String> restore(Path file, String passphrase, Instant now) throws IOException, SQLException {
        Path var = settings.var();
        OwnTables tables = new OwnTables(settings.database());
        for (String there : List.of(KEY, LOCAL, "live-definitions.sealed", "journal", "offered")) {
            if (Files.exists(var.resolve(there))) {
                throw new IOException("The folder " + var.toAbsolutePath() + " is in use: it has " + there
                        + ". A backup is brought back onto an empty installation; move the folder away first.");
            }
        }
        if (!tables.empty()) {
            throw new IOException("The database " + settings.database().name()
                    + " is not empty. A backup is brought back onto an empty installation; drop or rename it first.");
        }
        Files.createDirectories(var);
        Path scratch = Files.createTempDirectory(var, "restore");
        List<Path> placed = new ArrayList<>();
        boolean done = false;
        try (BackupFile.Reader reader = new BackupFile.Reader(file, passphrase)) {
            Manifest manifest = reader.manifest();
            for (Part part : manifest.parts()) {
                Path to = scratch.resolve(part.name()).normalize();
                if (!to.startsWith(scratch)) {
                    throw new IOException("The backup has a part that lies outside of its folder: " + part.name());
                }
                Files.createDirectories(to.getParent());
                try (OutputStream out = Files.newOutputStream(privately(to))) {
                    reader.part(part, out);
                }
                force(to);
            }
            LocalCopy.State local = LocalCopy.state(scratch.resolve(LOCAL));
            if (!local.problem().isEmpty()) {
                throw new IOException("The local store in the backup is damaged: " + local.problem());
            }
            LocalCopy.broughtBack(scratch.resolve(LOCAL), manifest.at(), now);
            List<String> lines = new ArrayList<>();
            lines.add("backup of " + manifest.site() + ", " + manifest.at());
            try (BufferedReader in = Files.newBufferedReader(scratch.resolve(TABLES))) {
                lines.add("own database: " + counted(tables.read(in)));
            }
            for (Part part : manifest.parts()) {
                if (!part.name().equals(TABLES)) {
                    Path to = var.resolve(part.name());
                    Files.createDirectories(to.getParent());
                    if (!Files.exists(to)) { // ports that were chosen here already stay
                        Files.move(scratch.resolve(part.name()), to);
                        placed.add(to);
                    }
                }
            }
            lines.add("live definitions: " + live());
            lines.add("rows set aside: " + local.aside()
                    + (local.aside() == 0 ? "" : "; whether some were sent since then is not known, and each says so"));
            lines.addAll(held(manifest.held()));
            lines.add("destinations are as they are: no backup holds their tables, files and users");
            lines.add(
                    "rows that were made after " + manifest.at()
                            + " and were still on their way are on the old machine's disk alone; none of them is sent from here");
            lines.add(
                    "clock times (shift ends, fixed times) between then and now are not made late: what the old machine recorded of them is not known here");
            LocalCopy.waits(var.resolve(LOCAL), now, "brought a backup back", String.join("; ", lines));
            LocalCopy.note(var.resolve(LOCAL), BroughtBack.FACT, BroughtBack.fact(now, lines));
            done = true;
            return lines;
        } finally {
            if (!done) {
                for (Path each : placed) {
                    Files.deleteIfExists(each);
                }
                tables.remove();
            }
            remove(scratch);
        }
    }

    /** Opens the live definitions with the key that was brought back. */
    private String live() throws IOException {
        SecretBox secrets = EngineWiring.secrets(settings);
        if (!secrets.lost().isEmpty()) {
            throw new IOException("The key in the backup does not do: " + secrets.lost());
        }
        List<Definition> definitions = new LiveFile(settings.var(), secrets)
                .read()
                .map(LiveFile.Live::definitions)
                .orElse(List.of());
        return definitions.size() + " can be read with the key";
    }

    /** Brings it back beside what runs, looks whether it is whole, and takes it away again. */
    List<String> check(Path file, String passphrase, Instant now) throws IOException, SQLException {
        Path folder = Files.createTempDirectory("dachshund-check");
        DachshundSettings.Database own = settings.database();
        DachshundSettings beside = new DachshundSettings(
                settings.site(),
                settings.zone(),
                folder.resolve("var"),
                "",
                false,
                0,
                0,
                0,
                "",
                "",
                new DachshundSettings.Database(
                        own.host(),
                        own.port(),
                        own.name() + "_check_" + Long.toString(System.nanoTime(), 36),
                        own.user(),
                        own.password(),
                        own.passwordFile()));
        try {
            return new Backup(beside).restore(file, passphrase, now);
        } finally {
            new OwnTables(beside.database()).remove();
            remove(folder);
        }
    }

    private static void remove(Path folder) throws IOException {
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path each : files.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(each);
            }
        }
    }
}
