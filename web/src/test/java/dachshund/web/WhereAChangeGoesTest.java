package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** What docs/architecture.md and docs/failures.md name is there, and every file holds what it is called. */
class WhereAChangeGoesTest {

    private static final Path ROOT = Path.of("..");
    private static final Pattern NAMED = Pattern.compile("`([^`]+)`");
    private static final List<String> MODULES =
            List.of("core", "engine", "links", "standins", "office", "web", "bench");

    private static String section() throws IOException {
        String all = Files.readString(ROOT.resolve("docs/architecture.md"));
        int from = all.indexOf("## Where a change goes");
        return all.substring(from, all.indexOf("\n## ", from + 1));
    }

    /** Names of all sources and of the folders they are in, as they are written in the table. */
    private static List<Path> sources() throws IOException {
        List<Path> all = new java.util.ArrayList<>();
        for (String module : MODULES) {
            try (Stream<Path> files = Files.walk(ROOT.resolve(module).resolve("src"))) {
                files.forEach(all::add);
            }
        }
        return all;
    }

    @Test
    void everyRoomAndClassThatIsNamedIsThere() throws IOException {
        List<Path> sources = sources();
        java.util.Set<String> names =
                sources.stream().map(each -> each.getFileName().toString()).collect(Collectors.toSet());
        List<String> paths = sources.stream().map(Path::toString).toList();
        List<String> missing = NAMED.matcher(section())
                .results()
                .map(found -> found.group(1))
                .filter(name -> !there(name, names, paths))
                .toList();
        assertThat(missing).as("named in docs/architecture.md and not there").isEmpty();
    }

    private static boolean there(String name, java.util.Set<String> names, List<String> paths) {
        if (name.contains("…")) {
            String end = name.substring(name.indexOf('…') + 1);
            return paths.stream().anyMatch(path -> path.endsWith(end));
        }
        if (name.matches("(core|engine|links|office|web)(\\.[a-z]+)?")) {
            String folder = "/dachshund/" + name.replace('.', '/');
            return paths.stream().anyMatch(path -> path.endsWith(folder));
        }
        if (name.endsWith(".html")) {
            return names.contains(name);
        }
        if (name.endsWith("()")) {
            return true; // a method
        }
        String type = name.replace("@", "");
        return names.contains(type + ".java") || type.equals("Benchmark"); // stands within Bench
    }

    /** The launcher runs the tests of core, of web and of the others by their packages. */
    @Test
    void testsOfAModuleAreInItsOwnPackages() throws IOException {
        List<String> elsewhere = new java.util.ArrayList<>();
        for (String module : MODULES) {
            Path tests = ROOT.resolve(module).resolve("src/test/java");
            if (!Files.isDirectory(tests)) {
                continue;
            }
            try (Stream<Path> files = Files.walk(tests)) {
                files.filter(file -> file.toString().endsWith(".java"))
                        .map(file -> tests.relativize(file).toString())
                        .filter(file -> !file.startsWith("dachshund/" + module + "/")
                                && !(module.equals("bench") && file.startsWith("dachshund/drill/")))
                        .forEach(elsewhere::add);
            }
        }
        assertThat(elsewhere).isEmpty();
    }

    @Test
    void everyTestThatHoldsAFailureWhereItHappensIsThere() throws IOException {
        List<Path> sources = sources();
        List<String> missing = new java.util.ArrayList<>();
        String table = Files.readString(ROOT.resolve("docs/failures.md"));
        for (String named :
                NAMED.matcher(table).results().map(each -> each.group(1)).toList()) {
            if (!named.matches("\\w+(Test|Contract)(\\.\\w+)?")) {
                continue;
            }
            String[] parts = named.split("\\.");
            boolean there = false;
            for (Path source : sources) {
                there |= source.endsWith(parts[0] + ".java")
                        && (parts.length == 1 || Files.readString(source).contains("void " + parts[1] + "("));
            }
            if (!there) {
                missing.add(named);
            }
        }
        assertThat(missing).as("named in docs/failures.md and not there").isEmpty();
        assertThat(table.lines().filter(line -> line.matches("\\| \\d+ \\|.*`.*")))
                .hasSize(40);
    }

    @Test
    void twentyChangesHaveTheirPlaceAndMostAreAFewFiles() throws IOException {
        List<String> counts = section()
                .lines()
                .filter(line -> line.startsWith("| ") && !line.startsWith("| to add"))
                .map(line -> line.split("\\|")[2].strip())
                .toList();
        assertThat(counts).hasSizeGreaterThanOrEqualTo(20);
        assertThat(counts.stream().filter(count -> count.matches("[1-4]")).count())
                .as("of no more than four files")
                .isGreaterThanOrEqualTo(counts.size() - 1);
    }

    /** A file that was emptied by mistake compiles, and its tests are missed by nobody. */
    @Test
    void eachSourceFileHoldsWhatItsNameSays() throws IOException {
        List<String> without = new java.util.ArrayList<>();
        for (Path file : sources()) {
            String name = file.getFileName().toString();
            if (name.endsWith(".java") && !name.equals("package-info.java")) {
                String type = name.substring(0, name.length() - ".java".length());
                if (!Pattern.compile("\\b(class|record|interface|enum) " + type + "\\b")
                        .matcher(Files.readString(file))
                        .find()) {
                    without.add(file.toString());
                }
            }
        }
        assertThat(without).isEmpty();
    }
}
