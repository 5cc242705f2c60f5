using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Inspection;

/// <content>What is odd at a move, how long it lasted, and how a file ends.</content>
public sealed partial class Inspector
{
    private void Cold(ref readonly GcodeMove m, double c)
    {
        if (facts.ColdMoves++ == 0)
            (facts.ColdLine, facts.ColdC) = (m.Line, c);
    }

    private void Beside(ref readonly GcodeMove m, bool extrudes)
    {
        if (facts.BesideMoves++ == 0 || extrudes && !facts.BesideExtrudes)
            (facts.BesideLine, facts.BesideWhere, facts.BesideExtrudes) = (
                m.Line, FormattableString.Invariant($"X {m.X1:0.##}, Y {m.Y1:0.##}, Z {m.Z1:0.##}"), extrudes);
    }

    private void Feature(LayerFacts now)
    {
        layerOfFeature = feature;
        inLayer = null;
        if (feature < 0)
            return;
        foreach (var f in now.Features)
        {
            if (f.Feature == feature)
            {
                inLayer = f;
                return;
            }
        }

        now.Features.Add(inLayer = new() { Feature = feature });
    }

    /// <summary>Takes the time of a move that the clock has planned.</summary>
    public void Timed(ref readonly MoveTag tag, double seconds, double peak)
    {
        facts.Seconds += seconds;
        var flow = 0.0;
        if (tag.Volume > 0)
        {
            facts.ExtrudeSeconds += seconds;
            flow = tag.Square * peak;
            var now = layer!.Index == tag.Layer ? layer : finder.Layers[tag.Layer];
            now.Seconds += seconds;
            now.ExtrudeSeconds += seconds;
            if (flow > now.MaxFlow)
                (now.MaxFlow, now.MaxFlowLine) = (flow, tag.Line);
            if (seconds > 0)
            {
                facts.Flow.Add(tag.Volume / seconds, seconds);
                facts.PeakFlow.Add(flow, seconds);
            }

            if (flow > flowLimit)
            {
                now.SecondsAbove += seconds;
                facts.SecondsAbove += seconds;
            }

            if (tag.Feature >= 0)
            {
                var f = facts.Features[tag.Feature];
                f.Length += tag.Volume / tag.Square;
                f.Volume += tag.Volume;
                f.Seconds += seconds;
            }
        }
        else
        {
            facts.TravelSeconds += seconds;
            if (tag.Layer >= 0)
                finder.Layers[tag.Layer].Seconds += seconds;
        }

        facts.Chart.Add(seconds, tag.Volume, flow, tag.Layer, tag.Line);
        crowdMoves++;
        crowdSeconds += seconds;
        if (crowdSeconds >= 0.25)
            Crowd(tag.Line);
    }

    /// <summary>Moves of the last quarter of a second: more than the controller takes, and the nozzle stutters.</summary>
    private void Crowd(int line)
    {
        var rate = crowdMoves / crowdSeconds;
        if (rate > facts.Request.MostMovesPerSecond)
            facts.CrowdedSeconds += crowdSeconds;
        if (rate > facts.MostMovesPerSecond)
            (facts.MostMovesPerSecond, facts.MostMovesLine) = (rate, crowdLine == 0 ? line : crowdLine);
        (crowdMoves, crowdSeconds, crowdLine) = (0, 0, line);
    }

    private void End(GcodeInterpreter reader)
    {
        planner?.Stop();
        EndOrder();
        (facts.LastExtrudeLine, facts.LastExtrudeOffset) = (lastLine, lastOffset);
        // The last one belongs to no layer: what follows may be the unloading of the filament.
        layer = null;
        if (debt > 0 && pulled > 0.02)
            Retracted(pulled);
        var f = facts;
        (f.Bytes, f.Lines, f.CarriageReturns, f.LongLines, f.End) = (reader.Bytes, reader.Lines, reader.CarriageReturns, reader.LongLines, reader.State);
        f.SaysTower |= TowerWords.In(f.Request.Name);
        f.Layers = [.. finder.Layers];
        f.TooManyLayers = finder.Full;
        Priming();
        f.Objects = f.Model.Select(l => l.Object).Distinct().Count();
        var model = f.Model.ToList();
        foreach (var l in f.Layers)
        {
            f.Volume += l.Volume;
            if (!l.Priming && l.MaxFlow > f.MaxFlow)
                (f.MaxFlow, f.MaxFlowLine, f.MaxFlowLayer) = (l.MaxFlow, l.MaxFlowLine, l.Index);
        }

        f.Volume += f.StandingVolume + f.PrimingVolume;
        f.FilamentMm = f.Volume / area;
        if (model.Count > 0)
            f.Box = (model.Min(l => l.MinX), model.Min(l => l.MinY), model.Max(l => l.MaxX), model.Max(l => l.MaxY), model.Max(l => l.Z));
    }

    /// <summary>
    /// Tells priming from the model: a first height that is left again for a lower one after a few lines, and first lines that lie clear of everything that
    /// stands above the first layer.
    /// </summary>
    private void Priming()
    {
        var layers = facts.Layers;
        if (layers.Count == 0)
            return;
        if (layers.Count > 1 && layers[1].Object == 1 && layers[0].Moves <= 20)
            layers[0].Priming = true;
        var model = layers.Where(l => !l.Priming).ToList();
        foreach (var l in model)
            l.Object -= layers[0].Priming ? 1 : 0;
        var above = model.Where(l => l.Index != model[0].Index).ToList();
        if (above.Count == 0)
            return;
        var (minX, minY, maxX, maxY) = (above.Min(l => l.MinX) - 1, above.Min(l => l.MinY) - 1, above.Max(l => l.MaxX) + 1, above.Max(l => l.MaxY) + 1);
        foreach (var s in strokes)
        {
            if (s.MaxX >= minX && s.MinX <= maxX && s.MaxY >= minY && s.MinY <= maxY)
                break;
            if (s.Layer != model[0].Index || model[0].Moves <= 1)
                continue;
            facts.PrimingVolume += s.Volume;
            model[0].Volume -= s.Volume;
            model[0].Length -= s.Length;
            model[0].Moves--;
        }
    }
}
