package dachshund.office.own;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.ZoneId;
import org.springframework.boot.context.properties.ConfigurationProperties;

/**
 * Settings of one installation.
 *
 * @param site          name of the site, for columns and file names
 * @param zone          plant time
 * @param files         folder under which files and SQLite databases are written; empty for {@code files} within var
 * @param var           folder for journal, local store, key and live definitions
 * @param demo          whether to fill an empty installation with the demo plant
 * @param demoOpcuaPort where the demo plant's OPC UA server listens
 * @param demoModbusPort where its meters listen; 0 for none
 * @param demoBrokerPort where the broker of its silo sensors is; 0 for none
 * @param demoHistory   a CSV file with what the demo plant did before; empty for none
 * @param readyFile     written when the application is ready; empty for none
 * @param database      the application's own database
 */
@ConfigurationProperties("dachshund")
public record DachshundSettings(
        String site,
        ZoneId zone,
        Path var,
        String files,
        boolean demo,
        int demoOpcuaPort,
        int demoModbusPort,
        int demoBrokerPort,
        String demoHistory,
        String readyFile,
        Database database) {

    /** Where files are written. */
    public Path filesFolder() {
        return (files.isBlank() ? var.resolve("files") : Path.of(files))
                .toAbsolutePath()
                .normalize();
    }

    /**
     * Where our own MariaDB is.
     *
     * @param passwordFile holds the password; empty where it is given itself
     */
    public record Database(String host, int port, String name, String user, String password, String passwordFile) {

        /** @throws UncheckedIOException where there is a file and it cannot be read */
        public String secret() {
            try {
                return passwordFile.isBlank()
                        ? password
                        : Files.readString(Path.of(passwordFile)).strip();
            } catch (IOException cannot) {
                throw new UncheckedIOException(
                        "The password of our own database cannot be read from " + passwordFile + ".", cannot);
            }
        }

        /** Without the password. */
        @Override
        public String toString() {
            return user + " at " + host + ":" + port + "/" + name;
        }
    }
}
