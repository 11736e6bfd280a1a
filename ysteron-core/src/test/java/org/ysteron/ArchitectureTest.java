package org.ysteron;

import static com.tngtech.archunit.base.DescribedPredicate.not;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAPackage;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.base.DescribedPredicate;
import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.library.Architectures.LayeredArchitecture;
import java.util.List;
import org.junit.jupiter.api.Test;

class ArchitectureTest {
  /** From the top down; a room may use those below it. */
  private static final List<String> ROOMS =
      List.of(
          "intake",
          "merge",
          "statement",
          "transact",
          "write",
          "keys",
          "drift",
          "read",
          "commit",
          "table",
          "file",
          "tree",
          "expr",
          "data",
          "store",
          "error");

  private static final JavaClasses CLASSES =
      new ClassFileImporter()
          .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
          .importPackages("org.ysteron");

  @Test
  void roomsUseOnlyRoomsBelowThem() {
    LayeredArchitecture rooms = layeredArchitecture().consideringOnlyDependenciesInLayers();
    rooms = rooms.layer("root").definedBy("org.ysteron");
    for (String room : ROOMS) {
      rooms = rooms.layer(room).definedBy("org.ysteron." + room);
    }
    for (int i = 0; i < ROOMS.size(); i++) {
      String[] above = new String[i + 1];
      above[0] = "root";
      for (int j = 0; j < i; j++) {
        above[j + 1] = ROOMS.get(j);
      }
      rooms = rooms.whereLayer(ROOMS.get(i)).mayOnlyBeAccessedByLayers(above);
    }
    rooms.check(CLASSES);
  }

  @Test
  void noRoomsUseEachOther() {
    slices().matching("org.ysteron.(*)..").should().beFreeOfCycles().check(CLASSES);
  }

  @Test
  void filesOfTheDiskAreKnownToTheStoreOnly() {
    DescribedPredicate<JavaClass> apis =
        JavaClass.Predicates.belongToAnyOf(
            java.io.File.class,
            java.io.FileInputStream.class,
            java.io.FileOutputStream.class,
            java.io.FileReader.class,
            java.io.FileWriter.class,
            java.io.RandomAccessFile.class,
            java.nio.channels.FileChannel.class,
            java.nio.file.Files.class,
            java.nio.file.FileSystems.class,
            java.util.zip.ZipFile.class);
    noClasses()
        .that(
            resideInAPackage("org.ysteron..")
                .and(not(resideInAPackage("org.ysteron.store")))
                // Files of others are read where they are; a lake is opened by its directory.
                .and(not(resideInAPackage("org.ysteron.intake")))
                .and(not(JavaClass.Predicates.simpleName("Lake")))
                .and(not(JavaClass.Predicates.simpleName("TempFiles")))
                .and(not(resideInAPackage("org.ysteron.drift"))))
        .should()
        .dependOnClassesThat(apis)
        .check(CLASSES);
  }

  @Test
  void theCoreTalksToNoTerminal() {
    noClasses()
        .should()
        .accessField(System.class, "out")
        .orShould()
        .accessField(System.class, "err")
        .check(CLASSES);
    assertThat(CLASSES.size()).isGreaterThan(100);
  }
}
