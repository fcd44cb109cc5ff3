package dachshund.web.start;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.secret.SecretBox;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.thread.Threads;
import dachshund.links.network.AllowedPlaces;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.definition.LiveFile;
import dachshund.office.own.DachshundSettings;
import dachshund.office.reach.AllowedAddresses;
import dachshund.web.setup.EngineWiring;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.concurrent.atomic.AtomicBoolean;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.support.DefaultListableBeanFactory;
import org.springframework.boot.context.event.ApplicationFailedEvent;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.boot.context.properties.bind.Binder;
import org.springframework.context.ApplicationContextInitializer;
import org.springframework.context.ConfigurableApplicationContext;

/**
 * Recording comes first: the engine is put together and made to run what was live at the last release before anything of
 * the pages is made. The pages find it at work.
 */
public final class EarlyStart implements ApplicationContextInitializer<ConfigurableApplicationContext> {

    private static final Logger LOG = LoggerFactory.getLogger(EarlyStart.class);

    @Override
    public void initialize(ConfigurableApplicationContext context) {
        DachshundSettings settings = Binder.get(context.getEnvironment())
                .bind("dachshund", DachshundSettings.class)
                .get();
        forOwnerAlone(settings.var());
        PlantClock clock = new SystemClock();
        SecretBox secrets;
        try {
            secrets = EngineWiring.secrets(settings);
        } catch (IOException cannot) {
            throw new UncheckedIOException(cannot);
        }
        if (!secrets.lost().isEmpty()) {
            LOG.error(secrets.lost());
        }
        OpcUaTrust trust = EngineWiring.trust(settings);
        AllowedPlaces places = EngineWiring.places(settings);
        Engine engine = EngineWiring.engine(settings, clock, secrets, trust, places);
        engine.local().remembered(AllowedAddresses.FACT).ifPresent(list -> allow(places, list));
        DefaultListableBeanFactory beans = (DefaultListableBeanFactory) context.getBeanFactory();
        beans.registerSingleton("clock", clock);
        beans.registerSingleton("secrets", secrets);
        beans.registerSingleton("trust", trust);
        beans.registerSingleton("allowedPlaces", places);
        beans.registerSingleton("engine", engine);
        AtomicBoolean underWay = new AtomicBoolean(true);
        beans.registerDisposableBean("engine", () -> {
            underWay.set(false);
            engine.close();
        });
        context.addApplicationListener(event -> {
            if (event instanceof ApplicationReadyEvent || event instanceof ApplicationFailedEvent) {
                underWay.set(false);
            }
        });
        Threads.atEnd("stop-under-way", () -> stopUnderWay(underWay, engine));
        LiveFile live = new LiveFile(settings.var(), secrets);
        beans.registerSingleton("liveFile", live);
        record(engine, live);
    }

    /** Asked to stop while it starts: what records ends in its order, and pages that are not there yet are not waited for. */
    private static void stopUnderWay(AtomicBoolean underWay, Engine engine) {
        if (underWay.get()) {
            engine.close();
            LOG.info("Stopped while starting.");
            Runtime.getRuntime().halt(0);
        }
    }

    /** Journal, local store, key and logs are nobody else's to read. */
    private static void forOwnerAlone(Path var) {
        try {
            Files.createDirectories(var);
            Files.setPosixFilePermissions(var, PosixFilePermissions.fromString("rwx------"));
        } catch (IOException | UnsupportedOperationException cannot) {
            LOG.warn("Others may be able to read what is under {}: {}", var, cannot.getMessage());
        }
    }

    /** A list that cannot be read allows nothing: whoever made it wanted less than everything. */
    private static void allow(AllowedPlaces places, String list) {
        try {
            places.allow(list);
        } catch (IllegalArgumentException damaged) {
            places.allow("0.0.0.0 1");
            LOG.error("The list of allowed addresses cannot be read; no connection is made: {}", damaged.getMessage());
        }
    }

    private static void record(Engine engine, LiveFile file) {
        try {
            file.read().ifPresent(live -> {
                engine.changeover(
                        live.definitions(),
                        live.definitions().stream()
                                .filter(SourceDefinition.class::isInstance)
                                .map(SourceDefinition.class::cast)
                                .toList());
                LOG.info("Recording from release {}.", live.release());
            });
        } catch (IOException | RuntimeException damaged) {
            LOG.error("Starting without the last release: {}", damaged.getMessage());
        }
    }
}
