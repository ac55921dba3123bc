'use client';
import { ThroughputFigures } from '../storage/ThroughputFigures';
import { volumeView } from './shared/storage';

export const throughput = volumeView<'throughput'>(ThroughputFigures);
