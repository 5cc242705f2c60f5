using Glenfrost.Core.Equipment;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace Glenfrost.Storage;

/// <summary>The database: SQLite, times as UTC milliseconds, words for enumerations.</summary>
public sealed class GlenfrostDb(DbContextOptions<GlenfrostDb> options) : DbContext(options)
{
    /// <summary>Testers.</summary>
    public DbSet<Person> People => Set<Person>();
    /// <summary>Products, without colour.</summary>
    public DbSet<Filament> Filaments => Set<Filament>();
    /// <summary>What label, reel and maker's page say.</summary>
    public DbSet<FilamentSource> FilamentSources => Set<FilamentSource>();
    /// <summary>Colours of a product.</summary>
    public DbSet<FilamentVariant> FilamentVariants => Set<FilamentVariant>();
    /// <summary>Reels that stand or stood here.</summary>
    public DbSet<Spool> Spools => Set<Spool>();
    /// <summary>Diameter readings of spools.</summary>
    public DbSet<SpoolDiameter> SpoolDiameters => Set<SpoolDiameter>();
    /// <summary>Weighings of spools.</summary>
    public DbSet<SpoolWeighing> SpoolWeighings => Set<SpoolWeighing>();
    /// <summary>Dryings of spools.</summary>
    public DbSet<DryingEntry> Dryings => Set<DryingEntry>();
    /// <summary>Where spools lay.</summary>
    public DbSet<SpoolStay> SpoolStays => Set<SpoolStay>();
    /// <summary>Dryers with what they reach.</summary>
    public DbSet<Dryer> Dryers => Set<Dryer>();
    /// <summary>The room log.</summary>
    public DbSet<RoomEntry> Room => Set<RoomEntry>();
    /// <summary>Printers.</summary>
    public DbSet<Printer> Printers => Set<Printer>();
    /// <summary>Toolheads of printers.</summary>
    public DbSet<Toolhead> Toolheads => Set<Toolhead>();
    /// <summary>Part history: fittings and other changes.</summary>
    public DbSet<Part> Parts => Set<Part>();
    /// <summary>Machine checks, each with its readings.</summary>
    public DbSet<MachineCheck> Checks => Set<MachineCheck>();
    /// <summary>Scales, callipers, displays, eyes.</summary>
    public DbSet<Instrument> Instruments => Set<Instrument>();
    /// <summary>What an instrument resolved from when on.</summary>
    public DbSet<InstrumentRevision> InstrumentRevisions => Set<InstrumentRevision>();
    /// <summary>A filament on a toolhead with a nozzle specification.</summary>
    public DbSet<Pairing> Pairings => Set<Pairing>();
    /// <summary>Profile revisions; only added.</summary>
    public DbSet<ProfileRevision> Revisions => Set<ProfileRevision>();
    /// <summary>Values of profile revisions.</summary>
    public DbSet<SettingRow> Settings => Set<SettingRow>();
    /// <summary>Runs of all trials.</summary>
    public DbSet<Run> Runs => Set<Run>();
    /// <summary>Readings of runs; only added.</summary>
    public DbSet<Reading> Readings => Set<Reading>();
    /// <summary>What was decided on verdicts.</summary>
    public DbSet<Decision> Decisions => Set<Decision>();
    /// <summary>What was seen, and what was tried.</summary>
    public DbSet<Finding> Findings => Set<Finding>();
    /// <summary>Files of runs by hash.</summary>
    public DbSet<RunFile> RunFiles => Set<RunFile>();
    /// <summary>Files of the G-code room by hash.</summary>
    public DbSet<GcodeFile> GcodeFiles => Set<GcodeFile>();
    /// <summary>Photos of pieces and spools by hash.</summary>
    public DbSet<Photo> Photos => Set<Photo>();
    /// <summary>Photos that stand for a score.</summary>
    public DbSet<AnchorPhoto> AnchorPhotos => Set<AnchorPhoto>();
    /// <summary>Sittings in which photos are scored again blind.</summary>
    public DbSet<Sitting> Sittings => Set<Sitting>();
    /// <summary>Scores of sittings.</summary>
    public DbSet<PhotoScore> PhotoScores => Set<PhotoScore>();
    /// <summary>Tablets, phones and instruments that were let in.</summary>
    public DbSet<Device> Devices => Set<Device>();
    /// <summary>Work that goes on beside pages, with its checkpoints.</summary>
    public DbSet<Job> Jobs => Set<Job>();
    /// <summary>What happened, for the log page.</summary>
    public DbSet<LogEntry> Log => Set<LogEntry>();
    /// <summary>What was learned of a run after its factors were frozen; only added.</summary>
    public DbSet<FactorEntry> FactorEntries => Set<FactorEntry>();
    /// <summary>Events of what is known of pairings; only added.</summary>
    public DbSet<EvidenceEntry> Evidence => Set<EvidenceEntry>();
    /// <summary>What the events' fold says: a projection, written with them.</summary>
    public DbSet<EvidenceStanding> Standings => Set<EvidenceStanding>();
    /// <summary>Values of toolheads; only added.</summary>
    public DbSet<MachineValue> MachineValues => Set<MachineValue>();

    /// <inheritdoc/>
    protected override void ConfigureConventions(ModelConfigurationBuilder b)
    {
        b.Properties<DateTime>().HaveConversion<UtcMilliseconds>();
        b.Properties<Enum>().HaveConversion<string>();
    }

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder b)
    {
        b.Entity<Filament>().Ignore(f => f.Name).HasMany(f => f.Sources).WithOne().HasForeignKey(s => s.FilamentId);
        b.Entity<Filament>().HasMany(f => f.Variants).WithOne().HasForeignKey(v => v.FilamentId);
        b.Entity<Spool>().HasOne(s => s.Filament).WithMany(f => f.Spools).HasForeignKey(s => s.FilamentId);
        b.Entity<Spool>().HasOne(s => s.Variant).WithMany().HasForeignKey(s => s.VariantId);
        b.Entity<Spool>().HasMany(s => s.Diameters).WithOne().HasForeignKey(d => d.SpoolId);
        b.Entity<Spool>().HasMany(s => s.Weighings).WithOne().HasForeignKey(d => d.SpoolId);
        b.Entity<Spool>().HasMany(s => s.Dryings).WithOne().HasForeignKey(d => d.SpoolId);
        b.Entity<Spool>().HasMany(s => s.Stays).WithOne().HasForeignKey(d => d.SpoolId);
        b.Entity<Toolhead>().Ignore(t => t.FullName).HasOne(t => t.Printer).WithMany(p => p.Toolheads).HasForeignKey(t => t.PrinterId);
        b.Entity<Part>().HasOne<Printer>().WithMany(p => p.Parts).HasForeignKey(p => p.PrinterId);
        b.Entity<MachineCheck>().HasOne<Printer>().WithMany(p => p.Checks).HasForeignKey(c => c.PrinterId);
        b.Entity<Run>().HasIndex(r => r.ToolheadId);
        b.Entity<Instrument>().HasMany(i => i.Revisions).WithOne().HasForeignKey(r => r.InstrumentId);
        b.Entity<Pairing>().Ignore(p => p.NozzleName).HasOne(p => p.Filament).WithMany().HasForeignKey(p => p.FilamentId);
        b.Entity<Pairing>().HasOne(p => p.Variant).WithMany().HasForeignKey(p => p.VariantId);
        b.Entity<Pairing>().HasOne(p => p.Toolhead).WithMany().HasForeignKey(p => p.ToolheadId);
        b.Entity<ProfileRevision>().HasOne<Pairing>().WithMany(p => p.Revisions).HasForeignKey(r => r.PairingId);
        b.Entity<ProfileRevision>().HasIndex(r => new { r.PairingId, r.Number }).IsUnique();
        b.Entity<ProfileRevision>().HasMany(r => r.Settings).WithOne().HasForeignKey(s => s.RevisionId);
        b.Entity<SettingRow>().HasIndex(s => new { s.RevisionId, s.Key, s.AtC }).IsUnique();
        b.Entity<Run>().HasMany(r => r.FactorEntries).WithOne().HasForeignKey(e => e.RunId);
        b.Entity<EvidenceEntry>().HasOne<Pairing>().WithMany().HasForeignKey(e => e.PairingId);
        b.Entity<EvidenceEntry>().HasIndex(e => e.CauseId);
        b.Entity<EvidenceStanding>().HasOne<Pairing>().WithMany().HasForeignKey(e => e.PairingId);
        b.Entity<MachineValue>().HasOne<Toolhead>().WithMany().HasForeignKey(v => v.ToolheadId);
        b.Entity<Run>().HasOne(r => r.Pairing).WithMany(p => p.Runs).HasForeignKey(r => r.PairingId);
        b.Entity<Run>().HasIndex(r => r.Stage);
        b.Entity<Run>().HasIndex(r => r.LinkedRunId);
        b.Entity<Run>().HasIndex(r => r.PrintedAt);
        // The last check of each kind is answered from the index alone.
        b.Entity<MachineCheck>().HasIndex(c => new { c.PrinterId, c.ToolheadId, c.Kind, c.At, c.RemovedAt, c.Id });
        b.Entity<Run>().HasMany(r => r.Readings).WithOne().HasForeignKey(r => r.RunId);
        b.Entity<Run>().HasMany(r => r.Decisions).WithOne().HasForeignKey(d => d.RunId);
        b.Entity<Run>().HasMany(r => r.Findings).WithOne().HasForeignKey(f => f.RunId);
        b.Entity<Run>().HasMany(r => r.Files).WithOne().HasForeignKey(f => f.RunId);
        b.Entity<RunFile>().HasIndex(f => f.Sha256);
        b.Entity<GcodeFile>().HasIndex(f => f.Sha256);
        b.Entity<GcodeFile>().HasOne<Pairing>().WithMany().HasForeignKey(f => f.PairingId);
        b.Entity<GcodeFile>().HasIndex(f => f.FromId);
        b.Entity<Job>().HasOne<Run>().WithMany().HasForeignKey(j => j.RunId);
        b.Entity<Job>().HasIndex(j => j.PrinterId).HasFilter("\"State\" IN ('running', 'paused')").IsUnique();
        b.Entity<Run>().HasMany(r => r.Photos).WithOne().HasForeignKey(p => p.RunId);
        b.Entity<Photo>().HasIndex(p => p.Key).IsUnique();
        b.Entity<Photo>().HasIndex(p => p.Sha256);
        b.Entity<Sitting>().HasMany(s => s.Scores).WithOne().HasForeignKey(s => s.SittingId);
        b.Entity<AnchorPhoto>().HasOne<Photo>().WithMany().HasForeignKey(a => a.PhotoId);
        b.Entity<AnchorPhoto>().HasIndex(a => a.PersonId);
        b.Entity<PhotoScore>().HasOne<Photo>().WithMany().HasForeignKey(s => s.PhotoId);
        b.Entity<PhotoScore>().HasIndex(s => new { s.SittingId, s.PhotoId, s.Aspect }).IsUnique();
        b.Entity<Device>().HasIndex(d => d.TokenHash).IsUnique();
        b.Entity<Reading>().HasIndex(r => new { r.RunId, r.Key }).IsUnique();
        b.Entity<Reading>().HasIndex(r => r.SupersedesId).IsUnique();
        b.Entity<Reading>().HasIndex(r => new { r.RunId, r.Section, r.Aspect, r.PersonId })
            .HasFilter("\"SupersedesId\" IS NULL").IsUnique();
        b.Entity<Finding>().HasIndex(f => f.PairingId);
        b.Entity<Finding>().HasIndex(f => f.Key).IsUnique();
        b.Entity<LogEntry>().HasIndex(l => l.At);
        b.Entity<LogEntry>().HasIndex(l => l.Undo);
        b.Entity<RoomEntry>().HasIndex(r => r.At);
        foreach (var type in b.Model.GetEntityTypes().Where(t => typeof(EditableRecord).IsAssignableFrom(t.ClrType)))
            b.Entity(type.ClrType).Property(nameof(EditableRecord.Version)).IsConcurrencyToken();
        foreach (var type in b.Model.GetEntityTypes())
            b.Entity(type.ClrType).Property(nameof(Record.Id)).ValueGeneratedNever();
    }

    private sealed class UtcMilliseconds() : ValueConverter<DateTime, long>(
        t => new DateTimeOffset(DateTime.SpecifyKind(t, DateTimeKind.Utc)).ToUnixTimeMilliseconds(),
        ms => DateTimeOffset.FromUnixTimeMilliseconds(ms).UtcDateTime);
}

/// <summary>Lets the migration tool make a context without the web application.</summary>
public sealed class DesignTimeFactory : IDesignTimeDbContextFactory<GlenfrostDb>
{
    /// <summary>A context for the tools that write migrations.</summary>
    public GlenfrostDb CreateDbContext(string[] args) => new(DataPlace.Options("/tmp/glenfrost-design.db"));
}
