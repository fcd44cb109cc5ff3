package dachshund.web.start;

import dachshund.office.archive.Filling;
import dachshund.office.archive.Upkeep;
import dachshund.office.definition.Releases;
import dachshund.office.own.DachshundSettings;
import dachshund.office.own.OwnDatabase;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.springframework.boot.ApplicationArguments;
import org.springframework.boot.ApplicationRunner;
import org.springframework.stereotype.Component;

/** The order of a start: record from the last release, then our own database, then the first people and the demo. */
@Component
class Start implements ApplicationRunner {

    private final DachshundSettings settings;
    private final OwnDatabase database;
    private final Releases releases;
    private final FirstContent firstContent;
    private final Upkeep archive;
    private final Filling filling;

    Start(
            DachshundSettings settings,
            OwnDatabase database,
            Releases releases,
            FirstContent firstContent,
            Upkeep archive,
            Filling filling) {
        this.filling = filling;
        this.archive = archive;
        this.settings = settings;
        this.database = database;
        this.releases = releases;
        this.firstContent = firstContent;
    }

    @Override
    public void run(ApplicationArguments arguments) throws IOException {
        releases.startFromFile();
        database.whenReady(releases::load);
        database.whenReady(archive::begin);
        database.whenReady(filling::begin);
        database.whenReady(firstContent::make);
        database.wheneverItAnswers(releases::settle);
        database.begin();
        if (!settings.readyFile().isBlank()) {
            Files.writeString(Path.of(settings.readyFile()), "ready\n");
        }
    }
}
