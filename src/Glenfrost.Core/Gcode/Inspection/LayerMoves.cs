using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>The moves of some layers, as columns; arcs are cut into chords. Lengths in mm.</summary>
public sealed class LayerMoves
{
    /// <summary>Most moves that are read at once.</summary>
    public const int Most = 300_000;

    /// <summary>Where the first move begins.</summary>
    public float StartX { get; private set; }

    /// <summary>See <see cref="StartX"/>.</summary>
    public float StartY { get; private set; }

    /// <summary>Where moves end.</summary>
    public List<float> X { get; } = [];
    /// <summary>Y of each move's end, mm.</summary>
    public List<float> Y { get; } = [];
    /// <summary>Z of each move's end, mm.</summary>
    public List<float> Z { get; } = [];

    /// <summary>Flow asked for, mm³/s; 0 for travel.</summary>
    public List<float> Flow { get; } = [];

    /// <summary>Speed asked for, mm/s.</summary>
    public List<float> Speed { get; } = [];

    /// <summary>Width of a rectangular bead, mm; 0 for travel.</summary>
    public List<float> Width { get; } = [];

    /// <summary>Nozzle, °C; NaN where none is set.</summary>
    public List<float> Nozzle { get; } = [];

    /// <summary>Fan, %.</summary>
    public List<float> Fan { get; } = [];

    /// <summary>Filament fed, mm; negative while it is pulled back.</summary>
    public List<float> E { get; } = [];
    /// <summary>Line of each move, from 1.</summary>
    public List<int> Line { get; } = [];

    /// <summary>Index of the layer.</summary>
    public List<int> Layer { get; } = [];

    /// <summary>Index of the feature; -1 for none.</summary>
    public List<sbyte> Feature { get; } = [];

    /// <summary>There were more than are read at once.</summary>
    public bool Cut { get; private set; }

    /// <summary>Reads the moves from the first of a layer to the last before the one behind another.</summary>
    /// <param name="file">The whole file.</param>
    /// <param name="facts">Its inspection.</param>
    /// <param name="first">Index of the first layer.</param>
    /// <param name="last">Index of the last one.</param>
    /// <param name="stop">Asked often.</param>
    public static LayerMoves Read(Stream file, FileFacts facts, int first, int last, CancellationToken stop = default)
    {
        var layer = facts.Layers[first];
        var end = last + 1 < facts.Layers.Count ? facts.Layers[last + 1].FirstOffset : long.MaxValue;
        var moves = new LayerMoves { StartX = (float)layer.Before.X, StartY = (float)layer.Before.Y };
        file.Position = layer.FirstOffset;
        var sink = new Sink(moves, facts, first, end);
        new GcodeInterpreter(sink, layer.Before.Copy()).Run(file, layer.FirstOffset, layer.FirstLine, stop);
        return moves;
    }

    private sealed class Sink(LayerMoves to, FileFacts facts, int first, long end) : GcodeSink
    {
        private readonly FeatureNames names = new();
        private readonly double area = facts.FilamentArea;
        private int layer = first;
        private sbyte feature = (sbyte)(facts.Layers[first].Features.Count > 0 ? facts.Layers[first].Features[0].Feature : -1);
        private double debt;
        private bool done;

        public override bool Enough => done;

        public override void Move(ref readonly GcodeMove m, MachineState s)
        {
            if (m.Offset >= end || to.X.Count >= Most)
            {
                to.Cut = m.Offset < end;
                done = true;
                return;
            }

            while (layer + 1 < facts.Layers.Count && facts.Layers[layer + 1].FirstOffset <= m.Offset)
                layer++;
            var laid = 0.0;
            if (m.E > 0)
            {
                laid = Math.Max(0, m.E - debt);
                debt = Math.Max(0, debt - m.E);
            }
            else
            {
                debt -= m.E;
            }

            if (m.Length == 0)
                return;
            var volume = m.X1 != m.X0 || m.Y1 != m.Y0 || m.Arc != 0 ? laid * area * s.FlowPercent / 100 : 0;
            var speed = m.Feed > 0 ? m.Feed : 20;
            if (m.Arc == 0)
            {
                Add(m.X1, m.Y1, m.Z1, volume, m.Length, m.E, speed, m.Line, s);
                return;
            }

            var parts = Math.Clamp((int)Math.Ceiling(Math.Abs(m.Arc) / 0.15), 2, 60);
            var (rx, ry) = (m.X0 - m.CentreX, m.Y0 - m.CentreY);
            for (var i = 1; i <= parts; i++)
            {
                var (sin, cos) = Math.SinCos(m.Arc * i / parts);
                Add(
                    i == parts ? m.X1 : m.CentreX + rx * cos - ry * sin, i == parts ? m.Y1 : m.CentreY + rx * sin + ry * cos, m.Z0 + (m.Z1 - m.Z0) * i / parts,
                    volume / parts, m.Length / parts, m.E / parts, speed, m.Line, s);
            }
        }

        private void Add(double x, double y, double z, double volume, double length, double e, double speed, int line, MachineState s)
        {
            to.X.Add((float)x);
            to.Y.Add((float)y);
            to.Z.Add((float)z);
            to.Flow.Add((float)(volume / length * speed));
            to.Speed.Add((float)speed);
            var thickness = facts.Layers[layer].Thickness;
            to.Width.Add((float)(volume > 0 && thickness > 0 ? volume / length / thickness : 0));
            to.Nozzle.Add((float)s.Nozzle);
            to.Fan.Add((float)s.Fan);
            to.E.Add((float)e);
            to.Line.Add(line);
            to.Layer.Add(layer);
            to.Feature.Add(volume > 0 ? feature : (sbyte)-1);
        }

        public override void Comment(ReadOnlySpan<byte> text, MachineState state, int number, long offset)
        {
            if (names.Of(text) is { } name)
                feature = (sbyte)facts.Features.FindIndex(f => f.Name == name);
        }
    }
}
