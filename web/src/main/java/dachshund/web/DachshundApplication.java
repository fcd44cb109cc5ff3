package dachshund.web;

import dachshund.web.backup.BackupCommand;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;

/** The application: pages and API around the engine. */
@SpringBootApplication(scanBasePackages = {"dachshund.office", "dachshund.web"})
@ConfigurationPropertiesScan({"dachshund.office.own", "dachshund.web"})
public class DachshundApplication {

    public static void main(String[] args) {
        if (args.length > 0 && BackupCommand.WORDS.contains(args[0])) {
            System.exit(BackupCommand.run(args));
        }
        SpringApplication.run(DachshundApplication.class, args);
    }
}
