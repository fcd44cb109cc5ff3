package dachshund.standins;

import dachshund.standins.modbus.MeterServer;
import dachshund.standins.mqtt.SiloSensors;
import dachshund.standins.opcua.PelletWorksServer;
import dachshund.standins.plant.Lots;
import dachshund.standins.plant.Lots.Lot;
import dachshund.standins.plant.PelletWorks;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;

/** The pellet works at work: a step of the simulation twice a second, shown over each protocol it was asked for. */
public final class SimulatedPlant implements AutoCloseable {

    private static final long STEP_MILLIS = 500;

    private final PelletWorks plant;
    private final Lots lots;
    private final Consumer<List<Lot>> ended;
    private final PelletWorksServer opcUa;
    private final Optional<MeterServer> meters;
    private final Optional<SiloSensors> silos;
    private final ScheduledExecutorService driver = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread thread = new Thread(task, "pellet-works");
        thread.setDaemon(true);
        return thread;
    });

    /**
     * @param opcUaPort  where the OPC UA server listens
     * @param modbusPort where the meters listen; 0 for none
     * @param brokerPort where the broker is that the silo sensors publish to; 0 for none
     */
    public static SimulatedPlant start(int opcUaPort, int modbusPort, int brokerPort, long seed)
            throws InterruptedException {
        return start(opcUaPort, modbusPort, brokerPort, seed, none -> {});
    }

    /**
     * The same.
     *
     * @param ended is told of lots that end
     */
    static SimulatedPlant start(int opcUaPort, int modbusPort, int brokerPort, long seed, Consumer<List<Lot>> ended)
            throws InterruptedException {
        PelletWorks plant = new PelletWorks(seed, Instant.now().minusSeconds(1800));
        plant.runTo(Instant.now());
        return start(plant, new Lots(plant), ended, opcUaPort, modbusPort, brokerPort);
    }

    /**
     * A plant goes on from where it is.
     *
     * @param ended is told of lots that end
     */
    static SimulatedPlant start(
            PelletWorks plant, Lots lots, Consumer<List<Lot>> ended, int opcUaPort, int modbusPort, int brokerPort)
            throws InterruptedException {
        return new SimulatedPlant(plant, lots, ended, opcUaPort, modbusPort, brokerPort);
    }

    /** With its OPC UA server alone. */
    public static SimulatedPlant start(int opcUaPort, long seed) throws InterruptedException {
        return start(opcUaPort, 0, 0, seed);
    }

    /** The same plant on other servers, after those of before were closed; its controllers go on from where they were. */
    public SimulatedPlant again(int opcUaPort, int modbusPort, int brokerPort) throws InterruptedException {
        return start(plant, lots, ended, opcUaPort, modbusPort, brokerPort);
    }

    private SimulatedPlant(
            PelletWorks plant, Lots lots, Consumer<List<Lot>> ended, int opcUaPort, int modbusPort, int brokerPort)
            throws InterruptedException {
        this.plant = plant;
        this.lots = lots;
        this.ended = ended;
        this.opcUa = new PelletWorksServer(opcUaPort, plant);
        this.meters =
                modbusPort == 0 ? Optional.empty() : Optional.of(MeterServer.start(modbusPort, false, plant.meters()));
        this.silos = brokerPort == 0 ? Optional.empty() : Optional.of(new SiloSensors(brokerPort, plant.silos()));
        driver.scheduleAtFixedRate(this::step, 0, STEP_MILLIS, TimeUnit.MILLISECONDS);
    }

    private void step() {
        plant.runTo(Instant.now());
        opcUa.publish();
        meters.ifPresent(MeterServer::publish);
        silos.ifPresent(SiloSensors::publish);
        List<Lot> over = lots.ended(Instant.now());
        if (!over.isEmpty()) {
            ended.accept(over);
        }
    }

    /** The plant behind the protocols. */
    public PelletWorks works() {
        return plant;
    }

    /** What the plant itself says that a tag is, whoever listens. */
    public Object value(String path, String name) {
        return plant.tags().stream()
                .filter(tag -> tag.path().equals(path) && tag.name().equals(name))
                .findFirst()
                .orElseThrow()
                .value();
    }

    /** Address of the OPC UA server. */
    public String address() {
        return opcUa.address();
    }

    public Optional<MeterServer> meters() {
        return meters;
    }

    @Override
    public void close() {
        driver.shutdownNow();
        silos.ifPresent(SiloSensors::close);
        meters.ifPresent(MeterServer::close);
        opcUa.close();
    }
}
